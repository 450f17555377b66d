import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";

import { choose, press } from "@/tests/controls";
import { STUDY, applied, objections } from "@/tests/document";
import { inspect } from "@/tests/inspect";

import { entryAt } from "./edits";
import { pointsIn } from "./courses";

afterEach(cleanup);

const SHEET = { headers: ["Strain", "Stress [MPa]"], units: ["", "MPa"], rows: [[0.002, 300], [0.1, 400]] }; // prettier-ignore
const pull = STUDY.loads![0]!;
const step = (id: string) => STUDY.steps!.find((s) => s.id === id)!;

test("a load in a step runs from what it was, through its course, to its end, in the unit it is spoken in", () => {
  const amounts = { loads: { pull: { tighten: 500, pull: 30e3 } }, courses: {}, bolts: {} };
  expect(pointsIn(STUDY, amounts, pull, step("tighten"))).toEqual([{ x: 0, y: 0 }, { x: 1, y: 0.5 }]); // prettier-ignore
  expect(pointsIn(STUDY, amounts, pull, step("settle"))).toEqual([{ x: 0, y: 30 }, { x: 1, y: 30 }]); // prettier-ignore
  const jumps: typeof amounts = { ...amounts, courses: { pull: { pull: [[0, 2e3], [0.5, 9e3]] } } }; // prettier-ignore
  expect(pointsIn(STUDY, jumps, pull, step("pull")).map((p) => [p.x, p.y])).toEqual([[0, 2], [0.5, 9], [1, 30]]); // prettier-ignore
});

/** The dialogue of a load in a step. */
async function drawing(answer?: Parameters<typeof inspect>[1]) {
  const { edit } = inspect({ kind: "load", id: "pull" }, answer);
  await press("Draw Pull up");
  await screen.findByRole("dialog", { name: "Pull in Pull up" });
  return edit;
}

test("points of a course are added, moved by keys and pointer, typed and taken away; one edit keeps them", async () => {
  const edit = await drawing();
  const plot = screen.getByRole("group", { name: "Course of Pull" });
  plot.getBoundingClientRect = () => ({ left: 0, top: 0, width: 520, height: 240 }) as DOMRect;
  fireEvent.doubleClick(plot, { clientX: 300, clientY: 100 });
  expect(screen.getAllByRole("slider")).toHaveLength(3);
  // A point stays between its neighbours, and the ends at the ends.
  const middle = screen.getByRole("slider", { name: "Point 2" });
  const x = () => screen.getByLabelText<HTMLInputElement>("Share of point 2").valueAsNumber;
  const before = x();
  fireEvent.keyDown(middle, { key: "ArrowRight" });
  expect(x()).toBeGreaterThan(before);
  fireEvent.pointerDown(screen.getByRole("slider", { name: "Point 2" }), { pointerId: 1 });
  fireEvent.pointerMove(plot, { clientX: 5000, clientY: 60 });
  fireEvent.pointerUp(plot);
  expect(x()).toBe(1);
  fireEvent.change(screen.getByLabelText("Share of point 2"), { target: { value: "0.25" } });
  fireEvent.change(screen.getByLabelText("Value of point 2"), { target: { value: "12.5" } });
  fireEvent.change(screen.getByLabelText("Value of point 3"), { target: { value: "-4" } });
  fireEvent.doubleClick(plot, { clientX: 400, clientY: 100 });
  await press("Take point 3 away");
  await press("Use the course");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  expect(entryAt(after, "/loads/0/courses/pull")).toEqual([{ at: 0.25, value: "12.5 kN" }]);
  expect(entryAt(after, "/loads/0/values/pull")).toBe("-4 kN");
  expect(objections(after)).toEqual([]);
});

test("a course is read from a sheet, and what is no course is told", async () => {
  let problem = true;
  const edit = await drawing({
    answer: ({ path }) => {
      if (path === "/api/tables") return { body: SHEET };
      if (path !== "/api/tables/course") return undefined;
      if (problem) return { status: 422, body: { code: "bad-input", message: "the time goes back in row 2.", where: "", hint: "Put the rows in order." } }; // prettier-ignore
      return { body: { unit: "kN", points: [[0.5, 7], [1, 0]] } }; // prettier-ignore
    },
  });
  await userEvent.type(screen.getByLabelText("Rows of a sheet"), "1 2");
  await press("Read the rows");
  expect((await screen.findByRole("alert")).textContent).toContain("goes back in row 2. Put the rows in order.");
  problem = false;
  await press("Read the rows");
  await waitFor(() => expect(screen.getAllByRole("slider")).toHaveLength(3));
  await press("Use the course");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  expect(entryAt(after, "/loads/0/courses/pull")).toEqual([{ at: 0.5, value: "7 kN" }]);
  expect(entryAt(after, "/loads/0/values/pull")).toBe("0 kN");
});

test("a curve from a file is asked for as it was measured, shown, and used with what it hardens by", async () => {
  const table = [{ strain: 0, stress: "300 MPa" }, { strain: 0.09, stress: "440 MPa" }]; // prettier-ignore
  const { edit, asked } = inspect(
    { kind: "study", id: "" },
    {
      answer: ({ path }) =>
        path === "/api/tables"
          ? { body: SHEET }
          : path === "/api/tables/curve"
            ? { body: { entered: SHEET.rows, table } }
            : undefined,
    },
  );
  const [first] = await screen.findAllByRole("button", { name: "Curve from a sheet" });
  await userEvent.click(first!);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Use the curve" }).disabled).toBe(true);
  await userEvent.upload(screen.getByLabelText("CSV or XLSX file"), new File(["x"], "tensile 3.xlsx"));
  await screen.findByRole("button", { name: "Use 2 rows" });
  await choose("Values are", "true");
  await choose("Strain is", "plastic strain only");
  await waitFor(() =>
    expect(asked.filter((a) => a.path === "/api/tables/curve").at(-1)?.body).toEqual({
      sheet: SHEET, measure: "true", strain: "plastic", young: "210 GPa",
    }),
  ); // prettier-ignore
  expect(asked.find((a) => a.path === "/api/tables")?.query.get("name")).toBe("tensile 3.xlsx");
  await press("Use 2 rows");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  expect(entryAt(after, "/materials/0/hardening")).toEqual({ kinematic_share: 0, table });
  expect(objections(after)).toEqual([]);
});

test("a test of rubber is asked for as it was pulled, and its constants are used", async () => {
  const rubber = { c10: "0.35 MPa", c01: "0.08 MPa", bulk: "430 MPa" };
  const { edit, asked } = inspect(
    { kind: "study", id: "" },
    {
      answer: ({ path }) => {
        if (path === "/api/tables") return { body: SHEET };
        if (path !== "/api/tables/rubber") return undefined;
        return { body: { entered: SHEET.rows, fitted: SHEET.rows, rubber, off: 0.031 } };
      },
    },
  );
  await press("Constants from a test");
  await userEvent.type(screen.getByLabelText("Rows of a sheet"), "1 2");
  await press("Read the rows");
  expect(await screen.findByText("3 %")).toBeTruthy();
  await choose("The piece was", "pulled two ways alike");
  await waitFor(() =>
    expect(asked.filter((a) => a.path === "/api/tables/rubber").at(-1)?.body).toEqual({
      sheet: SHEET,
      pull: "two ways",
    }),
  );
  await press("Use the constants");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  const at = STUDY.materials!.findIndex((m) => m.rubber);
  expect(entryAt(after, `/materials/${at}/rubber`)).toEqual(rubber);
  expect(objections(after)).toEqual([]);
});

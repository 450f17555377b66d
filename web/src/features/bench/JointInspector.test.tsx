import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvents from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";

import type { JointAsk, JointInfo } from "@/api/client";
import { useSelection } from "@/features/selection";
import { enter, press } from "@/tests/controls";
import { STUDY, applied, objections } from "@/tests/document";
import { inspect } from "@/tests/inspect";
import { answering, studyAt, withCache } from "@/tests/server";
import { VOCABULARY } from "@/tests/vocabulary";
import openapi from "../../../openapi.json";

import { entryAt } from "./edits";
import { JointMaking } from "./JointMaking";

/** Keys and pointer without waiting between them. */
const userEvent = userEvents.setup({ delay: null });

afterEach(cleanup);

type Schema = { properties: Record<string, { default?: unknown; type?: string; const?: string }>; required?: string[] };
const schemas = Object.values(openapi.components.schemas as unknown as Record<string, Schema>);

/** What is asked of a kind of joint where nothing is said: faces where some are needed, else what the schema begins with. */
function asked(kind: string): JointAsk {
  const schema = schemas.find((s) => s.properties?.kind?.const === kind);
  if (!schema) throw new Error(`The schema has no joint of the kind ${kind}.`);
  const entries = Object.entries(schema.properties).map(([name, { default: begin, type }]) => {
    const face = type === "array" ? ["lug/hole"] : "lug/hole";
    return [name, name === "kind" ? kind : schema.required?.includes(name) ? face : begin];
  });
  return Object.fromEntries(entries) as JointAsk;
}

const INFO: Omit<JointInfo, "ask"> = {
  name: "Shackle joint",
  makes: "Bolts M16 ×2, 1 pair",
  takes: "",
  bodies: [],
  told: ["hole 17.5 mm: medium fit of M16 (ISO 273)"],
  figures: [
    {
      name: "Opens at",
      quantity: "force",
      value: 180e3,
      least: 135e3,
      most: 225e3,
      holds: true,
      why: "",
      source: "VDI",
    },
    {
      name: "Use",
      quantity: "share",
      value: 0.9,
      most: 1.1,
      holds: false,
      why: "beyond the proof load",
      source: "ISO",
    },
  ],
};

/** The inspector of the study's joint, asked as given. */
const look = (ask: JointAsk) => {
  useSelection.setState({ gathering: undefined });
  return inspect(
    { kind: "joint", id: "shackle" },
    {
      study: { ...STUDY, joints: [{ ...STUDY.joints![0]!, ask }] },
      answer: ({ path }) => (path.includes("/joints/") ? { body: { ...INFO, ask } } : undefined),
    },
  );
};

test.each(VOCABULARY.joints.map((j) => j.kind))(
  "everything that can be asked of a joint that is %s has its control",
  async (kind) => {
    const sort = VOCABULARY.joints.find((j) => j.kind === kind)!;
    for (const field of sort.fields) {
      // Where it counts only beside another entry, that has to stand so.
      const others = Object.fromEntries(Object.entries(field.shown_if).map(([name, values]) => [name, values[0]]));
      const ask = { ...asked(kind), ...others };
      const before = entryAt({ ...STUDY, joints: [{ ...STUDY.joints![0]!, ask }] }, `/joints/0/ask/${field.name}`);
      const { edit } = look(ask);
      if (field.is_rare) await userEvent.click(screen.getByText("More that can be asked"));
      let wanted: unknown = "12 mm";
      if (field.control === "faces") {
        await userEvent.click(screen.getAllByText("Pick faces")[0]!);
        expect(useSelection.getState().gathering).toMatch(/^\/joints\/0\/ask\//);
        cleanup();
        continue;
      }
      if (field.control === "choice") {
        const [value, label] = field.options.find(([v]) => v !== before)!;
        wanted = value;
        const control = screen.getByLabelText(field.label);
        if (control.getAttribute("role") === "combobox") {
          control.focus();
          await userEvent.keyboard("{Enter}");
          await userEvent.click(await screen.findByRole("option", { name: label }));
        } else await userEvent.click(within(control).getByText(label));
      } else if (field.control === "switch") {
        wanted = !before;
        await userEvent.click(screen.getByLabelText(field.label));
      } else {
        if (field.control === "number") wanted = 0.33;
        if (field.control === "face") wanted = "beam/back";
        await enter(field.label, String(wanted));
      }
      await waitFor(() => expect(edit, field.name).toHaveBeenCalledTimes(1));
      const study = { ...STUDY, joints: [{ ...STUDY.joints![0]!, ask }] };
      const after = applied(study, edit.mock.calls[0]?.[0] ?? []);
      expect(entryAt(after, `/joints/0/ask/${field.name}`), field.name).toEqual(wanted);
      expect(
        objections(after).filter((o) => o.startsWith("/joints")),
        field.name,
      ).toEqual([]);
      cleanup();
    }
  },
);

test("the closed form is shown with its range, and what of it does not hold with the reason", async () => {
  look(STUDY.joints![0]!.ask);
  expect(await screen.findByText("180 kN")).toBeTruthy();
  expect(screen.getByText("135 kN to 225 kN")).toBeTruthy();
  expect(screen.getByText(/at most 1.10 beyond the proof load/)).toBeTruthy();
  expect(screen.getByText("hole 17.5 mm: medium fit of M16 (ISO 273)")).toBeTruthy();
});

test("the pieces of a joint lead to their inspectors, and it is unmade with or without them", async () => {
  const sent = look(STUDY.joints![0]!.ask).asked;
  await press("Unmake it, keep its pieces");
  await waitFor(() =>
    expect(sent.find((a) => a.path.endsWith("take-out"))?.body).toEqual({
      kind: "joint",
      id: "shackle",
      with_pieces: false,
    }),
  );
  cleanup();
  const again = look(STUDY.joints![0]!.ask).asked;
  await press("Take it out with its pieces");
  await waitFor(() =>
    expect(again.find((a) => a.path.endsWith("take-out"))?.body).toEqual({
      kind: "joint",
      id: "shackle",
      with_pieces: true,
    }),
  );
  cleanup();
  look(STUDY.joints![0]!.ask);
  await press(STUDY.pairs![0]!.name);
  expect(useSelection.getState().selected).toEqual({ kind: "pair", id: "seat" });
});

test("a joint is made with what was entered just before, though the page has not drawn it yet", async () => {
  const ask = asked("pressed");
  const study = studyAt(1, STUDY);
  const sent = answering(({ path }) => ({ body: path.includes("preview") ? { ...INFO, ask } : study }));
  const joining = { faces: ["lug/hole"], changes: {} };
  useSelection.setState({ joining, gathering: undefined });
  const draft = { joining, ask, info: { ...INFO, ask }, problem: null, isWaiting: false, isDrawing: false };
  const { Wrapper } = withCache([study]);
  render(<JointMaking info={study} draft={{ ...draft, scene: undefined }} bodies={[]} />, { wrapper: Wrapper });
  await enter("µ in the fit", "0.33");
  await press("Make the joint");
  await waitFor(() => expect(sent.some((one) => one.path.endsWith("/joints"))).toBe(true));
  expect(sent.find((one) => one.path.endsWith("/joints"))?.body).toMatchObject({ ask: { kind: "pressed", mu: 0.33 } });
});

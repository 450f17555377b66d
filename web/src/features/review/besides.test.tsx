import { cleanup, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { AlongPair } from "@/api/client";
import { choose, enter, press } from "@/tests/controls";
import { runOf } from "@/tests/runs";
import { answering, withCache } from "@/tests/server";

import { AlongBeam } from "./AlongBeam";
import { AlongOutline, pressing } from "./AlongOutline";
import { AxisSelect } from "./AxisSelect";
import { HandOn, type PictureOrder } from "./HandOn";
import { ImprintProfile } from "./ImprintProfile";
import { SurfaceControl } from "./SurfaceControl";
import { fieldPath, meaningOf } from "./fields";

const saved: [string, Blob][] = [];
beforeEach(() => {
  vi.spyOn(URL, "createObjectURL").mockImplementation((content) => `blob:${saved.push(["", content as Blob])}`);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  saved.length = 0;
});

const ALONG: AlongPair = {
  way: [0, 2, 4, 6, 8],
  pressure: [0, 10, 20, 10, 0],
  friction: [0, 1, -2, 1, 0],
  held: [0, 1, 2, 1, 0],
  gap: [null, 0, 0, 0, 0.3],
  at: [],
};

test("how wide and how evenly a pair presses is told along its outline", async () => {
  expect(pressing(ALONG)).toEqual({ wide: 4, mean: 15, most: 20 });
  expect(pressing({ way: [0, 1], pressure: [0, 0] })).toBeUndefined();
  answering(() => ({ body: ALONG }));
  const { Wrapper } = withCache();
  render(<AlongOutline run={1} increment={2} pair="lip" name="Seal – sill" />, { wrapper: Wrapper });
  expect((await screen.findByTestId("along-outline")).textContent).toBe(
    "Presses over 4.00 mm, 15.0 MPa on average, 20.0 MPa at most.",
  );
  const curves = JSON.parse(screen.getByLabelText("Seal – sill along its outline").textContent ?? "") as {
    y: (number | null)[];
    unit: string;
  }[];
  // Friction stands between µp and −µp, the gap where there is one.
  expect(curves.map((c) => c.y[2])).toEqual([20, -2, 2, -2, 0]);
  expect(curves.at(-1)?.y[0]).toBeNull();
  await press("Save as CSV");
  expect((await saved[0]?.[1].text())?.split("\r\n")[0]).toBe(
    '"way along the outline (mm)","pressure (MPa)","friction (MPa)","µp (MPa)","−µp (MPa)","gap (mm)"',
  );
});

test("a field about an axis is asked for about each part's own, or another through a point", async () => {
  const asked: (number[] | undefined)[] = [];
  const { rerender } = render(<AxisSelect about={undefined} onAbout={(a) => asked.push(a)} />);
  await choose("Axis", "axis along y");
  rerender(<AxisSelect about={asked[0]} onAbout={(a) => asked.push(a)} />);
  await enter("Axis through (mm)", "10, 0, -5");
  await enter("Axis through (mm)", "ten");
  expect((await screen.findByRole("alert")).textContent).toContain("Give three numbers");
  expect(asked).toEqual([
    [0, 0, 0, 0, 1, 0],
    [10, 0, -5, 0, 1, 0],
  ]);
  const shown = { kind: "part", part: "ring", about: asked[1] } as const;
  expect(fieldPath({ ...shown, field: "stress_hoop" })).toBe(
    "stress_hoop?about=10&about=0&about=-5&about=0&about=1&about=0",
  );
  // Other fields know no axis.
  expect(fieldPath({ ...shown, field: "von_mises" })).toBe("von_mises");
});

test("the value of a surface is typed or moved, in the unit that the field is read in", async () => {
  const levels: number[] = [];
  const meaning = meaningOf({ kind: "part", part: undefined, field: "plastic_strain" });
  render(
    <SurfaceControl
      level={0.01}
      onLevel={(l) => levels.push(l)}
      meaning={meaning}
      limits={{ low: 0, high: 4, signed: false }}
    />,
  );
  await enter("Value of the surface (%)", "2,5");
  expect(levels).toEqual([0.025]);
  await enter("Value of the surface (%)", "high");
  expect((await screen.findByRole("alert")).textContent).toContain("“high” is no number.");
});

test("a report is made of what is ticked, an animation of what is looked at", async () => {
  const answered = answering(({ method }) => ({ body: method === "GET" ? [] : {} }));
  const orders = () => answered.filter((a) => a.method === "POST");
  const view = { still: "", labels: [], towards: [0, 0, 1], up: [0, 1, 0] } as const;
  const { Wrapper } = withCache();
  const pictures: PictureOrder[] = [];
  render(
    <HandOn
      run={runOf(3, "solved")}
      shown={{ kind: "part", part: "lug", field: "stress_hoop" }}
      scale={10}
      isSolid={false}
      limits={[0, 80]}
      isLog
      title="Hoop stress: Lug"
      camera={{ current: () => ({ ...view, labels: [], towards: [0, 0, 1], up: [0, 1, 0] }) }}
      onPicture={(order) => Promise.resolve(pictures.push(order)).then(() => undefined)}
    />,
    { wrapper: Wrapper },
  );
  await press("Picture");
  await enter("Title", "Does the lug hold?");
  await press("top right", "radio");
  await press("3840", "radio");
  await press("Save as PNG");
  expect(pictures).toEqual([{ title: "Does the lug hold?", corner: "top right", width: 3840 }]);
  await press("Report");
  await press("page (HTML)", "radio");
  await press("Imprints", "checkbox");
  await press("Plastic strain", "checkbox");
  await press("Make the report");
  await waitFor(() => expect(orders()).toHaveLength(1));
  expect(orders()[0]?.path).toBe("/api/runs/3/report");
  const { chapters, ...order } = orders()[0]?.body as { chapters: string[] };
  expect(order).toEqual({
    to: "html",
    note: "",
    fields: ["von_mises", "displacement", "stress_hoop", "plastic_strain"],
  });
  expect([chapters.includes("verdicts"), chapters.includes("imprints")]).toEqual([true, false]);
  await waitFor(() => expect(saved).toHaveLength(1));
  await press("Animation");
  await enter("Frames a second", "100");
  expect((await screen.findByRole("alert")).textContent).toContain("from 1 to 60");
  await enter("Frames a second", "24");
  await press("Make the animation");
  await waitFor(() => expect(orders()).toHaveLength(2));
  expect(orders()[1]?.body).toMatchObject({
    to: "webm",
    rate: 24,
    between: 5,
    field: "stress_hoop",
    part: "lug",
    scale: 10,
  });
  expect(orders()[1]?.body).toMatchObject({ limits: [0, 80], towards: [0, 0, 1] });
});

test("a pair of a solid reads along a way over its imprint, a beam along its line", async () => {
  const asked = answering(({ path }) =>
    path.includes("/beams/")
      ? {
          body: {
            way: [0, 100],
            axial: [900, 900],
            shear: [
              [120, 120],
              [0, 0],
            ],
            torsion: [0, 0],
            bending: [
              [0, 0],
              [12_000, 0],
            ],
          },
        }
      : {
          body: {
            way: "around",
            ways: ["around", "outward", "along", "across"],
            unit: "°",
            at: [0, 90],
            mean: [10, 14],
            highest: [12, 20],
          },
        },
  );
  const { Wrapper } = withCache();
  render(
    <>
      <ImprintProfile
        run={1}
        increment={2}
        pair="seat"
        name="Seat"
        meaning={meaningOf({ kind: "pair", pair: "seat", field: "pressure" })}
      />
      <AlongBeam run={1} increment={2} body="bar" name="Bar" />
    </>,
    { wrapper: Wrapper },
  );
  expect((await screen.findByTestId("evenness")).textContent).toBe("The mean lies between 10.0 MPa and 14.0 MPa.");
  const curves = (label: string) =>
    JSON.parse(screen.getByLabelText(label).textContent ?? "") as { y: number[]; unit: string }[];
  expect(curves("Contact pressure of Seat around").map((c) => c.y)).toEqual([
    [12, 20],
    [10, 14],
  ]);
  await screen.findByLabelText("Moments along Bar");
  expect(curves("Moments along Bar").map((c) => [c.y[0], c.unit])).toEqual([
    [0, "N·m"],
    [0, "N·m"],
    [12, "N·m"],
  ]);
  await choose("Over the imprint", "outward");
  await waitFor(() => expect(asked.some((a) => a.path.includes("profile/seat/pressure"))).toBe(true));
});

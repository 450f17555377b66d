import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import type { Drawing, PartUse, RecipeUse } from "@/api/client";
import { useSelection } from "@/features/selection";
import { choose, enter, press } from "@/tests/controls";
import { STUDY, fieldsOfDocument, fieldsOn } from "@/tests/document";
import { type Exchange, answering, emptyScene, studyAt, withCache } from "@/tests/server";

import { BendBar } from "./BendBar";
import { DrawPart } from "./DrawPart";

afterEach(cleanup);

const entry = (x: string, y: string): [string, string] => [x, y];
const RING = {
  name: "body",
  takes_out: false,
  edges: [
    { name: "foot", to: entry("40 mm", "0 mm") },
    { name: "bow", to: entry("40 mm", "20 mm"), arc: { radius: "12 mm", turns: "left" as const, is_long: false } },
    { name: "back", to: entry("0 mm", "0 mm") },
  ],
};
const HOLE = { name: "hole.1", takes_out: true, circle: { centre: entry("20 mm", "5 mm"), diameter: "4 mm" } };
const TAB = {
  ...STUDY.parts![0]!,
  id: "tab",
  name: "Tab",
  recipe: {
    kind: "drawn",
    kept: "whole",
    dimensions: { d: "4 mm" },
    drawn: { outlines: [RING, HOLE], layers: [{ name: "slab", height: "10 mm", outlines: ["body", "hole.1"] }] },
  },
} as PartUse;
const HOOK = {
  ...TAB,
  recipe: {
    kind: "bent",
    kept: "whole",
    dimensions: { d: "4 mm" },
    bent: {
      section: [HOLE, RING],
      runs: [
        { name: "leg", length: "40 mm", towards: "0 deg" },
        { name: "bow", radius: "20 mm", angle: "90 deg", towards: "0 deg" },
      ],
      cuts: [
        { normal: [0, 1, 0], at: "0 mm" },
        { normal: [1, 0, 0], at: "0 mm" },
      ],
    },
  },
} as unknown as PartUse;
const line = (edge: number, a: [number, number], b: [number, number]) => ({
  outline: 0,
  edge,
  name: `edge ${edge}`,
  points: [a, b],
  length: 40,
  direction: 0,
  radius: null,
  sweep: null,
  is_corner: false,
});
const TRACED: Drawing = {
  edges: [line(0, [0, 0], [40, 0]), line(1, [40, 0], [40, 20]), line(2, [40, 20], [0, 0])],
  dimensions: { d: "4 mm" },
  faults: [],
  area: 400,
  volume: 4000,
};

/** A part opened where it is drawn or bent; gives what is asked of the server, and the recipe that is sent. */
function open(part: PartUse, traced: Drawing = TRACED) {
  const asked = answering(({ path, method }) => {
    if (path === "/api/drawings") return { body: traced };
    if (path.endsWith("/preview")) return { body: emptyScene() };
    return { body: method === "POST" ? studyAt(2, STUDY) : {} };
  });
  const info = studyAt(1, { ...STUDY, parts: [part] });
  const { Wrapper } = withCache([info]);
  const closed = vi.fn();
  const Dialogue = part.recipe.kind === "bent" ? BendBar : DrawPart;
  render(<Dialogue info={info} part={part} onClose={closed} />, { wrapper: Wrapper });
  return { asked, closed };
}

const sent = (asked: Exchange[]) =>
  asked.find((a) => a.path.endsWith("/parts/tab/recipe"))?.body as
    { recipe: RecipeUse; renamed: Record<string, string> } | undefined;

async function finish(asked: Exchange[], button: string) {
  const main = await screen.findByRole<HTMLButtonElement>("button", { name: button });
  await waitFor(() => expect(main.disabled).toBe(false));
  await press(button);
  await waitFor(() => expect(sent(asked)).toBeDefined());
  return sent(asked)!;
}

/** Paths at which two values differ. */
function differences(a: unknown, b: unknown, path = ""): string[] {
  if (typeof a !== "object" || typeof b !== "object" || !a || !b) return a === b ? [] : [path];
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].flatMap((k) =>
    differences((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k], `${path}/${k}`),
  );
}

const onEdge = (edge: number) => fireEvent.pointerDown(screen.getByLabelText(`Edge edge ${edge}`));
const HOLE_ROW = /^hole.1 ?circle/;
const DRAWN: [string, () => Promise<unknown>][] = [
  ["/drawn/outlines/0/edges/0/name", async () => (onEdge(0), enter("Name of its face", "Seat"))],
  ["/drawn/outlines/0/edges/0/to/0", async () => (onEdge(0), enter("End x", "5*d"))],
  ["/drawn/outlines/0/edges/0/to/1", async () => (onEdge(0), enter("End y", "1 mm"))],
  ["/drawn/outlines/0/edges/0/corner", async () => (onEdge(0), enter("Round its end", "2 mm"))],
  ["/drawn/outlines/0/edges/0/arc", async () => (onEdge(0), choose("Goes", "arc, turning right"))],
  ["/drawn/outlines/0/edges/1/arc/turns", async () => (onEdge(1), choose("Goes", "arc, turning right"))],
  ["/drawn/outlines/0/edges/1/arc/radius", async () => (onEdge(1), enter("Radius", "3*d"))],
  ["/drawn/outlines/0/edges/1/arc/is_long", async () => (onEdge(1), press("The longer of the two arcs", "switch"))],
  ["/drawn/outlines/1/circle/centre/0", async () => (await press(HOLE_ROW), enter("Centre x", "18 mm"))],
  ["/drawn/outlines/1/circle/diameter", () => enter("Diameter", "d")],
  ["/drawn/outlines/1/takes_out", () => press("Takes material out", "switch")],
  ["/drawn/outlines/1/name", () => enter("Name of the outline", "bore")],
  ["/drawn/layers/0/name", () => enter("Layer 1", "base")],
  ["/drawn/layers/0/height", () => enter("Height 1", "2*d")],
  ["/drawn/layers/0/outlines", () => press("bore", "checkbox")],
  ["/dimensions/d", () => enter("Value of d", "5 mm")],
];
const BENT: [string, () => Promise<unknown>][] = [
  ["/bent/runs/0/name", () => enter("Run 1", "shank")],
  ["/bent/runs/0/length", () => enter("Length 1", "10*d")],
  ["/bent/runs/1/radius", () => enter("Radius 2", "5*d")],
  ["/bent/runs/1/angle", () => enter("Angle 2", "180 deg")],
  ["/bent/runs/1/towards", () => enter("Towards 2", "90 deg")],
  ["/bent/runs/2", () => press("Straight run")],
  ["/bent/cuts/0/at", () => enter("Plane 1 at", "1 mm")],
  ["/bent/cuts/1", () => press("Take plane 2 out")],
  [
    "/bent/section/0/circle/diameter",
    async () => {
      await press("Section", "radio");
      await press(HOLE_ROW);
      return enter("Diameter", "d");
    },
  ],
];

test.each([
  ["drawing", TAB, DRAWN, { foot: "seat", "hole.1": "bore" }],
  ["bar", HOOK, BENT, Object.fromEntries(["foot", "bow", "back", "hole.1"].map((n) => [`leg.${n}`, `shank.${n}`]))],
])("every entry of a %s is set by a control, and names are led along", async (what, part, acts, led) => {
  const { asked } = open(part);
  await screen.findByText(part === TAB ? "As it stands" : "Cut by planes");
  for (const [, act] of acts) await act();
  const { recipe, renamed } = await finish(asked, `Change the ${what}`);
  const changed = differences(part.recipe, recipe);
  expect(acts.map(([path]) => path).filter((path) => !changed.some((p) => p.startsWith(path)))).toEqual([]);
  // Another run was added to the bar: its faces are known by their names again.
  expect(renamed).toEqual(part === TAB ? led : {});
});

test("every field of a drawing and of a bar is set so", () => {
  const set = new Set([...DRAWN, ...BENT].flatMap(([path]) => fieldsOn(`/parts/0/recipe${path}`)));
  const all = ["DrawnShape", "BentShape"].flatMap((m) => fieldsOfDocument(m));
  // Planes come from "Cut by a plane"; sections are drawn as parts are.
  expect(all.filter((f) => !set.has(f))).toEqual(["BarCut.normal"]);
});

test("a fault is told, marked and led to; nothing is set in the study with it", async () => {
  const fault = { message: "'foot' has no length.", hint: "Move its end.", where: "", outline: 0, edges: [0] };
  open(TAB, { ...TRACED, faults: [{ ...fault, at: [40, 0] }] });
  await press("'foot' has no length. Move its end.");
  expect(screen.getByLabelText<HTMLInputElement>("Name of its face").value).toBe("foot");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Change the drawing" }).disabled).toBe(true);
});

test("corners are typed by place, or by length and angle, and closed; one step back takes all of it away", async () => {
  const asked = answering(({ path }) => ({
    body: path === "/api/drawings" ? TRACED : { placement: {}, lines: [], circles: [] },
  }));
  const info = studyAt(1, STUDY);
  const { Wrapper } = withCache([info]);
  useSelection.setState({ selected: { kind: "study", id: "" } });
  const close = vi.fn();
  render(<DrawPart info={info} onClose={close} />, { wrapper: Wrapper });
  const type = async (values: Record<string, string>) => {
    for (const [label, value] of Object.entries(values))
      fireEvent.change(screen.getByLabelText(label), { target: { value } });
    await press("Set the corner");
  };
  await type({ x: "7", y: "7" });
  // Escape leaves the corners, not the drawing.
  fireEvent.keyDown(screen.getByLabelText("Drawing sheet"), { key: "Escape" });
  expect(screen.queryByRole("status")).toBeNull();
  expect(close).not.toHaveBeenCalled();
  await type({ x: "10", y: "5" });
  await type({ length: "20", "at °": "90" });
  expect(screen.getByRole("status").textContent).toContain("Open: 2 corners");
  await type({ x: "-4,5" });
  await press("Close the outline");
  const drawn = await waitFor(() => {
    const last = asked.filter((a) => a.path === "/api/drawings").at(-1);
    expect(last).toBeDefined();
    return (last?.body as { drawn: RecipeUse["drawn"] }).drawn;
  });
  expect(drawn?.outlines[0]?.edges?.map((e) => e.to)).toEqual([
    ["10 mm", "25 mm"],
    ["-4.5 mm", "25 mm"],
    ["10 mm", "5 mm"],
  ]);
  await press("One step back");
  expect(screen.getByText("Nothing drawn yet.")).toBeTruthy();
});

import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { HotSpot, PathValues, RunInfo, Summary } from "@/api/client";
import type { FieldInfo } from "@/api/vocabulary";
import type { Vec } from "@/scene/drawSigns";
import { choose, enter, press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { SUMMARY, runOf } from "@/tests/runs";
import { answering, withCache } from "@/tests/server";
import type { Line } from "@/ui/CurvePlot";

import { Curves } from "./Curves";
import { meaningOf } from "./fields";
import { HotSpots } from "./HotSpots";
import { Legend, type Range } from "./Legend";
import { PathPanel } from "./PathPanel";
import { RunCard } from "./RunCard";

const saved: Blob[] = [];
/** The text of the file that was saved. */
const textSaved = () => saved[0]?.text();
beforeEach(() => {
  vi.spyOn(URL, "createObjectURL").mockImplementation((content) => `blob:${saved.push(content as Blob)}`);
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  saved.length = 0;
});

const mises = () => meaningOf({ kind: "part", part: undefined, field: "von_mises" });

function legend(more: Partial<Parameters<typeof Legend>[0]> = {}) {
  const given: (Range | undefined)[] = [];
  render(<Legend low={0} high={100} unit="MPa" signed={false} onOwn={(own) => given.push(own)} {...more} />);
  return given;
}

test("limits are typed, and told when they make no sense", async () => {
  const given = legend();
  await enter("Upper limit (MPa)", "80");
  await enter("Lower limit (MPa)", "20");
  expect(given).toEqual([
    { low: 0, high: 80 },
    { low: 20, high: 100 },
  ]);
  await enter("Upper limit (MPa)", "much");
  expect((await screen.findByRole("alert")).textContent).toContain("“much” is no number. Give one in MPa.");
  await enter("Upper limit (MPa)", "-1");
  await waitFor(() => expect(screen.getByRole("alert").textContent).toContain("must be below the upper one"));
  expect(given).toHaveLength(2);
});

test("limits are kept as they are, dragged by an end, and given back to the data", async () => {
  const given = legend({ own: { low: 0, high: 100 } });
  await press("limits kept");
  await press("limits of the data");
  expect(given).toEqual([{ low: 0, high: 100 }, undefined]);
  const bar = screen.getByTitle("Drag an end to set the limit there");
  Object.assign(bar, { setPointerCapture: () => undefined });
  vi.spyOn(bar, "getBoundingClientRect").mockReturnValue({ left: 0, width: 200 } as DOMRect);
  vi.spyOn(bar, "clientWidth", "get").mockReturnValue(200);
  fireEvent.pointerDown(bar, { clientX: 190 });
  fireEvent.pointerMove(bar, { clientX: 90 });
  // Beyond the other end it comes to rest a little before it.
  fireEvent.pointerMove(bar, { clientX: -400 });
  fireEvent.pointerUp(bar);
  fireEvent.pointerMove(bar, { clientX: 0 });
  expect(given.slice(2)).toEqual([
    { low: 0, high: 50 },
    { low: 0, high: 2 },
  ]);
});

test("what is nothing but rounding has no scale", () => {
  legend({ high: 1e-6, isQuiet: true });
  expect(screen.getByTestId("legend").textContent).toMatch(/^Nothing here is larger than rounding/);
  expect(screen.queryByLabelText("Upper limit (MPa)")).toBeNull();
});

const VALUES: PathValues = {
  distance: [0, 5, 10],
  at: [
    [0, 0, 0],
    [5, 0, 0],
    [10, 0, 0],
  ],
  value: [null, 40, 20],
  part: [null, "lug", "lug"],
  size: [0, 4, 4],
  edge: [],
};

function path(ends: Vec[], data: PathValues | undefined, meaning: FieldInfo = mises(), isEdge = false) {
  const given: Vec[][] = [];
  const found = { data, error: null } as unknown as Parameters<typeof PathPanel>[0]["found"];
  render(
    <PathPanel
      study={STUDY}
      ends={ends}
      onEnds={(next) => given.push(next)}
      goesOn={false}
      onGoesOn={(on) => given.push(on ? [[9, 9, 9]] : [])}
      isEdge={isEdge}
      onEdge={(on) => given.push(on ? [[7, 7, 7]] : [])}
      onClose={() => given.push([])}
      inward={[0, 0, -1]}
      found={found}
      meaning={meaning}
    />,
  );
  return given;
}

test("an edge is asked for beside one place, and named by the faces that meet in it", async () => {
  const given = path([[1, 2, 3]], undefined);
  await press("along the nearest edge");
  expect(given).toEqual([[[7, 7, 7]]]);
  cleanup();
  path([[1, 2, 3]], { ...VALUES, edge: ["lug/left", "lug/top"] }, mises(), true);
  expect(screen.getByTestId("edge").textContent).toBe("Along the edge of Lug / left and Lug / top.");
  expect(screen.getByLabelText("edge near (mm)")).toBeTruthy();
  expect(screen.getByText("Save as CSV")).toBeTruthy();
});

test("a path through what a formula knows has that beside it", () => {
  const ends: Vec[] = [
    [0, 0, 0],
    [10, 0, 0],
  ];
  path(ends, {
    ...VALUES,
    by_hand: { name: "Fit: press fit of rings (Lamé 1852)", values: [null, 41, 20], holds: false },
  });
  expect(screen.getByTestId("by-hand").textContent).toBe(
    "by hand: Fit: press fit of rings (Lamé 1852), but not all that it rests on is met",
  );
  cleanup();
  path(ends, VALUES);
  expect(screen.queryByTestId("by-hand")).toBeNull();
});

test("a path is begun on the stage, goes into the part, and its ends are typed", async () => {
  path([], undefined);
  expect(screen.getByText("Click where it begins on the stage.")).toBeTruthy();
  cleanup();
  const given = path([[1, 2, 3]], undefined);
  await press("go straight into the part");
  await enter("from (mm)", "1 2");
  expect((await screen.findByRole("alert")).textContent).toContain("Give three numbers");
  await enter("from (mm)", "4, 5, 6");
  expect(given).toEqual([
    [
      [1, 2, 3],
      [1, 2, -17],
    ],
    [[4, 5, 6]],
  ]);
});

test("a path goes on over further corners, each of which is typed like the first", async () => {
  const corners: Vec[] = [
    [0, 0, 0],
    [10, 0, 0],
    [10, 5, 0],
  ];
  const given = path(corners, VALUES);
  await press("Go on");
  expect(given.pop()).toEqual([[9, 9, 9]]);
  await enter("then 2 (mm)", "10, 8, 0");
  expect(given.pop()).toEqual([...corners.slice(0, 2), [10, 8, 0]]);
});

test("a path tells its highest value with place and element, is read elsewhere, and saved", async () => {
  path(
    [
      [0, 0, 0],
      [10, 0, 0],
    ],
    VALUES,
  );
  expect(screen.getByTestId("on-path").textContent).toBe("40.0 MPa at 5.00 mm · Lug · element 4.0 mm");
  // Where the plot is pressed there is no material.
  await press("Von Mises stress along the path");
  expect(screen.queryByTestId("on-path")).toBeNull();
  await press("Save as CSV");
  expect((await textSaved())?.split("\r\n").slice(0, 3)).toEqual([
    '"distance (mm)","Von Mises stress (MPa)"',
    "0,NaN",
    "5,40",
  ]);
  cleanup();
  path(
    [
      [0, 0, 0],
      [10, 0, 0],
    ],
    { ...VALUES, value: [null, null, null] },
  );
  expect(screen.getByText("There is no material along this path.")).toBeTruthy();
});

test("the highest places name the part and its copy, and a press goes there", async () => {
  const spots: HotSpot[] = [
    { body: "bolts#2", at: [1, 2, 3], value: 290, spread: 30, singular: "the edge of contact of Heads" },
    { body: "lug", at: [4, 5, 6], value: 178, spread: 1, singular: "" },
  ];
  const gone: Vec[] = [];
  render(<HotSpots study={STUDY} spots={spots} meaning={mises()} onGo={(to) => gone.push(to)} />);
  const told = screen.getAllByRole("listitem").map((item) => item.textContent);
  expect(told[0]).toMatch(/ 2290 MPa ± 30\.0 MPasingular: the edge of contact of Heads$/);
  expect(told[1]).toMatch(/178 MPa$/);
  await press(/178 MPa/);
  expect(gone).toEqual([[4, 5, 6]]);
});

test("curves are added, taken away, laid over another run and saved", async () => {
  const history = [0.5, 1].map((time) => ({ ...SUMMARY, time, energy: { kinetic: 0, springs: {} } }));
  const before = [0.4, 1].map((time) => ({ ...SUMMARY, time, energy: { kinetic: 0, springs: {} } }));
  const asked = answering(() => ({ body: before }));
  const heads: number[] = [];
  const { Wrapper } = withCache();
  render(
    <Curves
      study={STUDY}
      history={history as unknown as Summary[]}
      head={1}
      onHead={(at) => heads.push(at)}
      others={[runOf(3, "solved", { increments: 2, revision: 1 })]}
    />,
    { wrapper: Wrapper },
  );
  const lines = () => JSON.parse(screen.getByRole("button", { name: / against / }).textContent) as Line[];
  expect(lines()).toEqual([{ x: [0.5, 1], y: [40, 40], unit: "kN", isFaint: false }]);
  await choose("add", "Seat: peak pressure (MPa)");
  expect(lines().map((l) => l.unit)).toEqual(["kN", "MPa"]);
  await choose("beside", "run 3, r1");
  await waitFor(() => expect(lines()).toHaveLength(4));
  expect(asked[0]?.path).toBe("/api/runs/3/history");
  expect(lines().at(-1)).toEqual({ x: [0.4, 1], y: [81.25, 81.25], unit: "MPa", isFaint: true });
  await press("Save as CSV");
  expect((await textSaved())?.split("\r\n")[0]).toBe(
    '"Time in steps","Seat: force across (kN)","Seat: peak pressure (MPa)"',
  );
  await press(/ against /);
  expect(heads).toEqual([0]);
  await press("Take Seat: force across away");
  expect(lines().map((l) => l.unit)).toEqual(["MPa", "MPa"]);
});

test("a run is named, compared with the one before, and removed", async () => {
  const run: RunInfo = runOf(5, "solved", { increments: 2, study_id: 1 });
  const asked = answering(({ method, path: at }) => {
    if (method === "DELETE") return { body: null };
    return { body: at.endsWith("/changes") ? ["Pull, values pull 42 kN → 60 kN."] : run };
  });
  const removed: number[] = [];
  const { Wrapper } = withCache();
  render(<RunCard run={run} earlier={runOf(4, "solved")} onRemoved={() => removed.push(run.id)} />, {
    wrapper: Wrapper,
  });
  expect(await screen.findByText("Pull, values pull 42 kN → 60 kN.")).toBeTruthy();
  await enter("Called", "Dry");
  // Results are not lost by one press.
  await press("Remove this run and its results");
  await press("Keep them");
  await press("Remove this run and its results");
  expect(removed).toEqual([]);
  await press("Remove them");
  await waitFor(() => expect(removed).toEqual([5]));
  const sent = asked.filter((a) => a.method !== "GET").map((a) => [a.method, a.path, a.body]);
  expect(sent).toEqual([
    ["PATCH", "/api/runs/5", { name: "Dry" }],
    ["DELETE", "/api/runs/5", undefined],
  ]);
});

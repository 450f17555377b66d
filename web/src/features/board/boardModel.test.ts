import { expect, test } from "vitest";

import type { StudyDocument } from "@/api/client";
import type { Summary } from "@/api/hooks";

import { courseOf, lanesOf, unitOf } from "./boardModel";

const study = {
  steps: [{ id: "a", name: "A" }, { id: "b", name: "B" }, { id: "c", name: "C" }],
  supports: [{ id: "wall", name: "Wall", kind: "fixed", faces: [] }],
  bolts: [{ id: "bolts", name: "Bolts", part: "bolts", preload: { a: "42 kN" } }],
  loads: [{ id: "pull", name: "Pull", kind: "force", faces: [], values: { b: "48 kN", c: "off" } }],
  pairs: [{ id: "flange", name: "Flange", law: { may_open: false, may_slide: "no" } }],
} as unknown as StudyDocument;

test("a bolt is tightened in its step and keeps its length after", () => {
  const bolts = lanesOf(study)[1];
  expect(bolts?.cells.map((c) => c.text)).toEqual(["0 → 42 kN", "length kept", "length kept"]);
  expect(bolts?.cells.map((c) => c.style)).toEqual(["solid", "dashed", "dashed"]);
});

test("a load begins, and is taken off", () => {
  const cells = lanesOf(study)[2]?.cells ?? [];
  expect(cells.map((c) => c.text)).toEqual(["", "0 → 48 kN", "48 → 0"]);
  expect(cells[2]).toMatchObject({ from: 1, to: 0 });
});

test("a pair tells its law in a word", () => {
  expect(lanesOf(study)[3]?.cells[0]?.text).toBe("tied");
});

test("after a run a lane carries its answer at the head", () => {
  const lane = lanesOf(study)[1];
  const summary = (step: number, force: number) =>
    ({ step, time: 1, bolts: { "bolts#1": { force, shortening: 0 }, "bolts#2": { force: force / 2, shortening: 0 } } }) as unknown as Summary;
  const course = lane && courseOf(lane, study, [summary(0, 42000), summary(1, 44100)], 1);
  expect(course?.readout).toBe("44.1 kN");
  expect(course?.points.at(-1)).toEqual({ x: 2, y: 1 });
});

test("the unit of a written value is what follows its number", () => {
  expect(unitOf("0.5 in")).toBe("in");
  expect(unitOf("-2e-3 mm")).toBe("mm");
});

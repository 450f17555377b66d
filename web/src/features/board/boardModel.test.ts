import { expect, test } from "vitest";

import type { StudyDocument, Summary } from "@/api/client";

import { learn } from "@/api/vocabulary";
import { VOCABULARY } from "@/tests/vocabulary";

import { type Amounts, courseOf, lanesOf } from "./boardModel";

learn(VOCABULARY);

const study = {
  steps: [
    { id: "a", name: "A" },
    { id: "b", name: "B" },
    { id: "c", name: "C" },
  ],
  supports: [{ id: "wall", name: "Wall", kind: "fixed", faces: [] }],
  bolts: [{ id: "bolts", name: "Bolts", part: "bolts", preload: { a: "42 kN" } }],
  loads: [{ id: "pull", name: "Pull", kind: "force", faces: [], values: { b: "48 kN", c: "off" } }],
  pairs: [{ id: "flange", name: "Flange", law: { may_open: false, may_slide: "no" } }],
} as unknown as StudyDocument;

const amounts: Amounts = { loads: { pull: { b: 48e3, c: 0 } }, courses: {}, bolts: { bolts: { a: 42e3 } } };

test("a bolt is tightened in its step and keeps its length after", () => {
  const bolts = lanesOf(study, amounts)[1];
  expect(bolts?.cells.map((c) => c.text)).toEqual(["0 → 42 kN", "length kept", "length kept"]);
  expect(bolts?.cells.map((c) => c.style)).toEqual(["solid", "dashed", "dashed"]);
});

test("a load begins, and is taken off", () => {
  const cells = lanesOf(study, amounts)[2]?.cells ?? [];
  expect(cells.map((c) => c.text)).toEqual(["", "0 → 48 kN", "48 kN → 0"]);
  expect(cells[2]).toMatchObject({ from: 1, to: 0 });
});

test("what sleeps does nothing in any step, and is not written to", () => {
  const lanes = lanesOf(study, amounts, { load: ["pull"], pair: ["flange"] });
  const [support, bolts, load, pair] = lanes.map((l) => [l.cells.map((c) => c.text), !!l.written]);
  expect([load, pair]).toEqual([[["asleep", "", ""], false], [["asleep", "", ""], false]]); // prettier-ignore
  expect([support?.[0], bolts?.[1]]).toEqual([["fixed", "", ""], true]); // prettier-ignore
});

test("a pair tells its law in a word", () => {
  expect(lanesOf(study, amounts)[3]?.cells[0]?.text).toBe("tied");
});

test("after a run a lane carries its answer at the head", () => {
  const lane = lanesOf(study, amounts)[1];
  const summary = (step: number, force: number) =>
    ({
      step,
      time: 1,
      bolts: { "bolts#1": { force, shortening: 0 }, "bolts#2": { force: force / 2, shortening: 0 } },
    }) as unknown as Summary;
  const course = lane && courseOf(lane, study, [summary(0, 42000), summary(1, 44100)], 1);
  expect(course?.readout).toBe("44.1 kN");
  expect(course?.points.at(-1)).toEqual({ x: 2, y: 1 });
});

test("values are drawn by what they amount to, whatever units they are written in", () => {
  const rising = {
    ...study,
    loads: [{ id: "pull", name: "Pull", kind: "force", faces: [], values: { a: "500 N", b: "1 kN" } }],
  } as unknown as StudyDocument;
  const cells = lanesOf(rising, { ...amounts, loads: { pull: { a: 500, b: 1000 } } })[2]?.cells ?? [];
  expect(cells.map((c) => [c.from, c.to])).toEqual([
    [0, 0.5],
    [0.5, 1],
    [1, 1],
  ]);
  expect(cells[1]?.text).toBe("500 N → 1 kN");
});

test("an angle given in degrees reads back in degrees, with the torque that it takes", () => {
  const turned = {
    ...study,
    loads: [
      { id: "turn", name: "Turn", kind: "rotation", handle: "grip", direction: [0, 0, 1], values: { a: "30 deg" } },
    ],
  } as unknown as StudyDocument;
  const lane = lanesOf(turned, { ...amounts, loads: { turn: { a: Math.PI / 6 } } })[2];
  // 5 N·m about its own axis; the 10 N that act 20 mm off the origin count against it there.
  const carrier = { kind: "motion", name: "turn", force: [10, 0, 0], moment: [0, 0, 4800], about: [0, 20, 0] };
  const summary = { step: 0, time: 1, values: { turn: Math.PI / 6 }, carriers: [carrier] } as unknown as Summary;
  expect(lane && courseOf(lane, turned, [summary], 0)?.readout).toBe("30.0 °, 5.00 N·m");
});

import { expect, test } from "vitest";

import type { StudyDocument, Summary } from "@/api/client";
import type { SceneBlock } from "@/api/sceneBlock";
import { momentAbout } from "@/api/units";
import { planeOf, shareOf } from "@/scene/CutControl";
import { halvesOf } from "@/scene/mirrors";
import type { StageLook } from "@/scene/Stage3D";
import { SUMMARY } from "@/tests/runs";

import { asCsv, coursesOf, firstCurves } from "./quantities";
import { extremeLabels, pinLabels, readingAt } from "./readings";

const triangle = { name: "plate", positions: Float32Array.of(0, 0, 0, 10, 0, 0, 0, 20, 5) };
const block = { bodies: [triangle], patches: [] } as unknown as SceneBlock;
const look: StageLook = {
  colours: [],
  looks: ["field"],
  highlights: [],
  showMesh: false,
  fields: [Float32Array.of(-30, 60, 90)],
  motion: [Float32Array.of(0, 0, 0, 0, 0, 1, 0, 0, 2)],
  scale: 10,
};
const middle = { corners: [0, 1, 2], shares: [1 / 3, 1 / 3, 1 / 3] } as const;

test("a reading is mixed of the corners about it, and moves as they do", () => {
  const seen = { block, look };
  expect(readingAt(seen, { body: "plate", place: middle }, "MPa")).toBe("40.0 MPa");
  const [pin] = pinLabels(seen, [{ id: "pin-1", body: "plate", place: middle }], "MPa");
  expect(pin?.at.map((c) => Number(c.toFixed(4)))).toEqual([3.3333, 6.6667, 11.6667]);
  // Where no field is shown, and on a mesh of fewer corners, nothing is read.
  expect(readingAt(seen, { body: "bolt", place: middle }, "MPa")).toBeUndefined();
  expect(readingAt(seen, { body: "plate", place: { ...middle, corners: [0, 1, 7] } }, "MPa")).toBeUndefined();
  expect(readingAt(seen, { body: undefined, value: 7 }, "MPa")).toBe("7.00 MPa");
});

test("the highest is marked, the lowest of what has a sign, and neither of what is rounding", () => {
  const texts = (isSigned: boolean, quiet: number) =>
    extremeLabels({ block, look }, "MPa", isSigned, quiet).map((l) => l.text);
  expect(texts(true, 0)).toEqual(["highest 90.0 MPa", "lowest -30.0 MPa"]);
  expect(texts(false, 0)).toEqual(["highest 90.0 MPa"]);
  expect(texts(true, 40)).toEqual(["highest 90.0 MPa"]);
});

test("a section along a face passes where it was picked, and what no plane crosses may be half", () => {
  const normal = [0, 0.6, 0.8] as const;
  const share = shareOf([0, 10, 2.5], normal, block);
  expect(planeOf({ axis: "face", share, flipped: false }, block, normal).at).toBeCloseTo(8);
  expect(planeOf({ axis: "face", share, flipped: true }, block, normal).cut[3]).toBeCloseTo(-8);
  expect(halvesOf(block)).toEqual([true, true, true]);
  const across = { bodies: [{ positions: Float32Array.of(-1, 2, 0, 1, 3, 0) }] } as unknown as SceneBlock;
  expect(halvesOf(across)).toEqual([false, false, false]);
});

test("what is plotted first is the torque over the angle, and a table quotes its titles", () => {
  const study = {
    loads: [{ id: "turn", name: "Turn", kind: "rotation", direction: [0, 0, -1], values: {} }],
    pairs: [],
    parts: [],
  } as unknown as StudyDocument;
  const motion = { kind: "motion", name: "turn", force: [10, 0, 0], moment: [0, 0, 4800], about: [0, 20, 0] };
  const history = [0.5, 1].map((time) => ({
    ...SUMMARY,
    time,
    values: { turn: time },
    carriers: [motion],
    energy: { kinetic: 0, springs: {} },
    pairs: {},
    parts: {},
    bolts: {},
  })) as unknown as Summary[];
  const courses = coursesOf(study, history);
  const { x, y } = firstCurves(study, courses);
  expect([x, y]).toEqual(["load/turn", ["motion/turn/moment-z"]]);
  const torque = courses.find((c) => c.key === y[0]);
  expect(torque?.values).toEqual([5, 5]);
  expect(asCsv([{ key: "a", label: 'Angle, "turned"', unit: "°", values: [1, 2] }])).toBe(
    '"Angle, ""turned"" (°)"\r\n1\r\n2\r\n',
  );
  // A moment about another point: of 10 N along x, 20 mm up.
  expect(momentAbout({ force: [10, 0, 0], moment: [0, 0, -200] }, [5, 20, 0])).toEqual([0, 0, 0]);
});

import { expect, test } from "vitest";

import type { SceneBlock } from "@/api/sceneBlock";
import { STUDY } from "@/tests/document";

import { gapLook, gapText } from "./gapLook";

/** Two triangles over 20 × 10 mm with gaps at their corners. */
const block = (values: number[]): SceneBlock => ({
  bodies: [],
  bricks: {},
  problems: [],
  patches: [
    {
      pair: "joint",
      positions: new Float32Array([0, 0, 0, 20, 0, 0, 20, 10, 0, 0, 10, 0]),
      triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
      values: new Float32Array(values),
    },
  ],
});
const texts = (values: number[], cut?: [number, number, number, number]) =>
  gapLook(STUDY, block(values), cut)?.labels.map((l) => l.text);

test("least and largest are told, an overlap as such, and what is alike everywhere once", () => {
  expect(texts([0.5, 0.2, -0.02, 0.1])).toEqual(["overlap 20.0 µm", "gap 0.500 mm"]);
  expect(texts([0.5, 0.5, 0.5, 0.5])).toEqual(["gap 0.500 mm"]);
  expect(texts([0, 0, 0, 0])).toEqual(["touching"]);
  expect(gapText(0)).toBe("touching");
});

test("colours have nothing in their middle where faces gap and overlap; rounding is no overlap", () => {
  expect(gapLook(STUDY, block([0.5, 0.2, -0.02, 0.1]), undefined)?.limits).toEqual({
    low: -0.5,
    high: 0.5,
    signed: true,
  });
  const plain = gapLook(STUDY, block([0.5, 0.2, -1e-9, 0.1]), undefined);
  expect([plain?.limits.signed, plain?.limits.low]).toEqual([false, 0]);
  expect(gapLook(STUDY, block([]), undefined)).toBeUndefined();
});

test("a section shows what there is where it cuts the faces, between their nodes", () => {
  // The plane x = 10 cuts the edges below, across and above.
  expect(texts([0, 0.2, 0.4, 0.2], [1, 0, 0, 10])).toEqual(["gap 0.100 mm", "gap 0.200 mm", "gap 0.300 mm"]);
  // Beside the faces: least and largest again.
  expect(texts([0, 0.2, 0.4, 0.2], [1, 0, 0, 50])).toEqual(["touching", "gap 0.400 mm"]);
});

import { expect, test } from "vitest";

import type { BodySkin, SceneBlock } from "@/api/sceneBlock";

import { planeOf } from "./CutControl";

const body = (...positions: number[]): BodySkin => ({
  name: "b",
  faces: ["f"],
  positions: new Float32Array(positions),
  triangles: new Uint32Array([0, 1, 2]),
  triangleFace: new Uint32Array([0]),
  features: new Uint32Array(),
  edges: new Uint32Array(),
  rims: new Uint32Array(),
  rimFace: new Uint32Array(),
});
const block: SceneBlock = {
  bodies: [body(-10, 0, 0, 0, 5, 0, 0, 0, 0), body(0, 0, 2, 30, 0, 2, 0, 1, 2)],
  patches: [],
  bricks: {},
  problems: [],
};

test("a section stands at its share of the way through all parts together", () => {
  expect(planeOf({ axis: "x", share: 0.25, flipped: false }, block)).toEqual({ cut: [1, 0, 0, 0], at: 0 });
  expect(planeOf({ axis: "y", share: 1, flipped: false }, block).at).toBe(5);
});

test("the other side keeps the plane and takes away what was left", () => {
  const { cut, at } = planeOf({ axis: "x", share: 0.5, flipped: true }, block);
  expect(at).toBe(10);
  const isGone = (x: number) => x * cut[0] > cut[3];
  expect([isGone(9), isGone(11)]).toEqual([true, false]);
});

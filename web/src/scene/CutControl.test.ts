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
  expect(planeOf({ axis: "x", share: 0.25, flipped: false }, block)).toMatchObject({ cut: [1, 0, 0, 0], at: 0 });
  expect(planeOf({ axis: "y", share: 1, flipped: false }, block).at).toBe(5);
});

test("the other side keeps the plane and takes away what was left", () => {
  const { cut, at } = planeOf({ axis: "x", share: 0.5, flipped: true }, block);
  expect(at).toBe(10);
  const isGone = (x: number) => x * cut[0] > cut[3];
  expect([isGone(9), isGone(11)]).toEqual([true, false]);
});

test("a section through an axis passes through the middle of everything however it is turned", () => {
  for (const angle of [0, 30, 90]) {
    const { cut, point } = planeOf({ axis: "turned", share: 0, flipped: false, about: "y", angle }, block);
    // Everything reaches from −10 to 30 along x and from 0 to 2 along z.
    expect(10 * cut[0] + 1 * cut[2]).toBeCloseTo(cut[3]);
    expect(Math.hypot(cut[0], cut[2])).toBeCloseTo(1);
    expect(point[0] * cut[0] + point[1] * cut[1] + point[2] * cut[2]).toBeCloseTo(cut[3]);
  }
});

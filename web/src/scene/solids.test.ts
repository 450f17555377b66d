import { expect, test } from "vitest";

import type { BodySkin, SceneBlock } from "@/api/sceneBlock";

import { arrows, crosses } from "./strokes";
import { solidOf } from "./solids";

/** A section of one square from x = 10 to 20 and y = 0 to 5. */
const SQUARE: BodySkin = {
  name: "ring",
  faces: ["left"],
  positions: new Float32Array([10, 0, 0, 20, 0, 0, 20, 5, 0, 10, 5, 0]),
  triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
  triangleFace: new Uint32Array([1, 1]),
  features: new Uint32Array([0, 1, 1, 2, 2, 3, 3, 0]),
  edges: new Uint32Array(),
  rims: new Uint32Array(),
  rimFace: new Uint32Array(),
};
const SECTION: SceneBlock = { bodies: [SQUARE], patches: [], bricks: {}, problems: [] };

/** The surface of what is drawn: of each triangle its area. */
function areaOf({ positions, triangles }: BodySkin): number {
  const at = (v: number) => [0, 1, 2].map((k) => positions[3 * v + k]!);
  let area = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => at(triangles[t + k]!)) as [number[], number[], number[]];
    const [u, v] = [b, c].map((p) => p.map((x, k) => x - a[k]!)) as [number[], number[]];
    area += Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) / 2;
  }
  return area;
}

test("a section is swept back through its thickness, no deeper than it is wide", () => {
  for (const [depth, drawn] of [
    [4, 4],
    [1000, 10],
  ] as const) {
    const { block } = solidOf(SECTION, { is_turned: false, depth });
    const [body] = block.bodies;
    expect(areaOf(body!)).toBeCloseTo(2 * 50 + 30 * drawn, 4);
    const z = body!.positions.filter((_, i) => i % 3 === 2);
    expect([Math.min(...z), Math.max(...z)]).toEqual([-drawn, 0]);
    expect(block.solid).toBeUndefined();
  }
});

test("a section is turned about the axis with an opening in front, fields and motions with it", () => {
  const { block, spread } = solidOf(SECTION, { is_turned: true, depth: 0 });
  const [body] = block.bodies;
  const walls = (3 / 2) * Math.PI * (5 * (10 + 20) + 10 * (10 + 20));
  expect(areaOf(body!)).toBeCloseTo(2 * 50 + walls, -1);
  const values = spread(0, new Float32Array([1, 2, 3, 4]), 1);
  const motion = spread(0, new Float32Array([1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0]), 3);
  for (let v = 0; v < values.length; v++) {
    const [x, y, z] = body!.positions.subarray(3 * v, 3 * v + 3) as unknown as [number, number, number];
    const radius = Math.hypot(x, z);
    expect(values[v]).toBe(y === 0 ? (radius < 15 ? 1 : 2) : radius < 15 ? 4 : 3);
    // What moves outwards moves outwards all around.
    expect((motion[3 * v]! * x + motion[3 * v + 2]! * z) / radius).toBeCloseTo(1, 5);
    // Nothing stands between the viewer and the section.
    expect(x > 0.1 && z > 0.1).toBe(false);
  }
});

test("arrows are as long as what they stand for, and what is nothing beside the largest has none", () => {
  const at = new Float32Array([0, 0, 0, 5, 0, 0, 9, 0, 0]);
  const { lines } = arrows(at, new Float32Array([2, 0, 0, 0, 1, 0, 0.01, 0, 0]), 100);
  expect(lines).toHaveLength(6);
  const long = (i: number) => Math.hypot(...lines[i]![1].map((x, k) => x - lines[i]![0][k]!));
  expect(long(0) / long(3)).toBeCloseTo(2);
  expect(lines[0]![1][0]).toBeCloseTo(7);
});

test("principal stresses are crosses in two colours, pulled and pressed", () => {
  const unit = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ];
  const { lines, colours } = crosses({ at: [[1, 1, 1]], values: [[100, 0, -50]], directions: [unit] }, 100);
  expect(lines).toHaveLength(2);
  expect(new Set(colours).size).toBe(2);
  expect(lines[0]!.map((p) => p[0])).toEqual([1 - 3.5, 1 + 3.5].map((x) => expect.closeTo(x, 5) as number));
  expect(lines[1]!.map((p) => p[2])).toEqual([1 - 1.75, 1 + 1.75].map((x) => expect.closeTo(x, 5) as number));
});

import { expect, test } from "vitest";

import type { PairPatch } from "@/api/sceneBlock";

import { isTorn, layFlat, pieces } from "./unroll";

/** A strip of a cylinder (radius 8 about an axis along z through `x0`), from 0 to `turn`, 5 high. */
function strip(x0: number, turn: number, steps: number, first = 0): { positions: number[]; triangles: number[] } {
  const positions: number[] = [];
  const triangles: number[] = [];
  for (let i = 0; i <= steps; i++) {
    const a = (turn * i) / steps;
    for (const z of [0, 5]) positions.push(x0 + 8 * Math.cos(a), 8 * Math.sin(a), z);
    if (i < steps) {
      const k = first + 2 * i;
      triangles.push(k, k + 2, k + 1, k + 1, k + 2, k + 3);
    }
  }
  return { positions, triangles };
}

const patch = (positions: number[], triangles: number[]): PairPatch => ({
  pair: "p",
  positions: new Float32Array(positions),
  triangles: new Uint32Array(triangles),
});

test("a flat patch keeps its size and is seen from outside, y upwards", () => {
  const flat = layFlat(patch([0, 0, 7, 30, 0, 7, 30, 20, 7, 0, 20, 7], [0, 1, 2, 0, 2, 3]));
  expect(flat).toMatchObject({ kind: "flat", width: 30, height: 20 });
  expect([...flat.points]).toEqual([0, 20, 30, 20, 30, 0, 0, 0]);
});

test("separate bores become pieces of their own", () => {
  const a = strip(0, 2, 8);
  const b = strip(100, 2, 8, 18);
  const both = patch([...a.positions, ...b.positions], [...a.triangles, ...b.triangles]);
  expect(new Set(pieces(both)).size).toBe(2);
  expect(pieces(both)[17]).toBe(0);
  expect(pieces(both)[18]).toBe(1);
});

test("a full bore unrolls to its length of arc and its depth", () => {
  const full = strip(0, 2 * Math.PI * (47 / 48), 47);
  const flat = layFlat(patch(full.positions, full.triangles));
  expect(flat.kind).toBe("unrolled");
  expect(flat.height).toBeCloseTo(5, 5);
  expect(flat.width).toBeCloseTo(2 * Math.PI * 8 * (47 / 48), 0);
});

test("a closed bore is torn only where the roll is cut", () => {
  const closed = strip(0, 2 * Math.PI * (47 / 48), 47);
  closed.triangles.push(94, 0, 95, 95, 0, 1);
  const ring = patch(closed.positions, closed.triangles);
  const flat = layFlat(ring);
  const torn = Array.from({ length: ring.triangles.length / 3 }, (_, t) =>
    isTorn(ring, flat, [...ring.triangles.subarray(3 * t, 3 * t + 3)] as [number, number, number]),
  );
  expect(torn.filter(Boolean)).toHaveLength(2);
});

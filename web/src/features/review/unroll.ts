import type { PairPatch } from "@/api/sceneBlock";

type Vector = [number, number, number];

/** A patch laid flat: positions per vertex in mm, and the box around them. */
export type Flat = { points: Float32Array; width: number; height: number; kind: "flat" | "unrolled" };

const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const unit = (a: Vector): Vector => {
  const size = Math.hypot(...a) || 1;
  return [a[0] / size, a[1] / size, a[2] / size];
};

/** Normals closer than this to their mean make a flat patch. */
const FLAT_COSINE = 0.98;
/** An arc is at most π/2 times its chord for any triangle that spans less than half a turn. */
const TORN = 2;
/** Space between pieces laid side by side, as a share of the largest. */
const GAP = 0.12;

/**
 * Lay a patch flat: flat faces are seen along their normal and keep their places; round ones are
 * unrolled about their axis, piece by piece, side by side.
 */
export function layFlat(patch: PairPatch): Flat {
  const at = (i: number): Vector => [
    patch.positions[3 * i] ?? 0,
    patch.positions[3 * i + 1] ?? 0,
    patch.positions[3 * i + 2] ?? 0,
  ];
  const normals: Vector[] = [];
  for (let t = 0; t < patch.triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => at(patch.triangles[t + k] ?? 0)) as [Vector, Vector, Vector];
    normals.push(unit(cross(minus(b, a), minus(c, a))));
  }
  const mean = unit(normals.reduce<Vector>((s, n) => [s[0] + n[0], s[1] + n[1], s[2] + n[2]], [0, 0, 0]));
  if (normals.every((n) => dot(n, mean) > FLAT_COSINE)) return boxed(project(patch, mean, at), "flat");
  return boxed(unroll(patch, normals, at), "unrolled");
}

/** Seen from outside along the normal, with y upwards where it can be. */
function project(patch: PairPatch, normal: Vector, at: (i: number) => Vector): Float32Array {
  const upright: Vector = Math.abs(normal[1]) < 0.9 ? [0, 1, 0] : [0, 0, 1];
  const right = unit(cross(upright, normal));
  const up = cross(normal, right);
  const out = new Float32Array((patch.positions.length / 3) * 2);
  for (let i = 0; i < out.length / 2; i++) {
    out[2 * i] = dot(at(i), right);
    out[2 * i + 1] = dot(at(i), up);
  }
  return out;
}

/** Pieces that hang together by triangles, as a piece number per vertex. */
export function pieces(patch: PairPatch): number[] {
  const parent = Array.from({ length: patch.positions.length / 3 }, (_, i) => i);
  const root = (i: number): number => {
    while (parent[i] !== i) {
      parent[i] = parent[parent[i] ?? i] ?? i;
      i = parent[i] ?? i;
    }
    return i;
  };
  for (let t = 0; t < patch.triangles.length; t += 3) {
    const a = root(patch.triangles[t] ?? 0);
    parent[root(patch.triangles[t + 1] ?? 0)] = a;
    parent[root(patch.triangles[t + 2] ?? 0)] = a;
  }
  const roots = parent.map((_, i) => root(i));
  const order = [...new Set(roots)];
  return roots.map((r) => order.indexOf(r));
}

function unroll(patch: PairPatch, normals: Vector[], at: (i: number) => Vector): Float32Array {
  const axis = commonAxis(normals);
  const helper: Vector = Math.abs(axis[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0];
  const e1 = unit(cross(axis, helper));
  const e2 = cross(axis, e1);
  const piece = pieces(patch);
  const out = new Float32Array(piece.length * 2);
  let start = 0;
  for (let p = 0; p <= Math.max(...piece); p++) {
    const members = piece.flatMap((q, i) => (q === p ? [i] : []));
    const centre = members.reduce<Vector>(
      (s, i) => {
        const x = at(i);
        return [s[0] + x[0] / members.length, s[1] + x[1] / members.length, s[2] + x[2] / members.length];
      },
      [0, 0, 0],
    );
    const polar = members.map((i) => {
      const d = minus(at(i), centre);
      return {
        i,
        angle: Math.atan2(dot(d, e2), dot(d, e1)),
        radius: Math.hypot(dot(d, e1), dot(d, e2)),
        along: dot(at(i), axis),
      };
    });
    const radius = polar.reduce((s, q) => s + q.radius / polar.length, 0);
    const low = Math.min(...polar.map((q) => q.angle));
    const high = Math.max(...polar.map((q) => q.angle));
    for (const q of polar) {
      out[2 * q.i] = start + (q.angle - low) * radius;
      out[2 * q.i + 1] = q.along;
    }
    start += (high - low) * radius * (1 + GAP);
  }
  return out;
}

/** The direction to which all normals are square: the best of the crosses of far-apart pairs. */
function commonAxis(normals: Vector[]): Vector {
  const first = normals[0] ?? [0, 0, 1];
  let best: Vector = [0, 0, 1];
  let size = 0;
  for (const n of normals) {
    const c = cross(first, n);
    if (Math.hypot(...c) > size) [best, size] = [unit(c), Math.hypot(...c)];
  }
  return best;
}

function boxed(points: Float32Array, kind: Flat["kind"]): Flat {
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 2) {
    left = Math.min(left, points[i] ?? 0);
    right = Math.max(right, points[i] ?? 0);
    bottom = Math.min(bottom, points[i + 1] ?? 0);
    top = Math.max(top, points[i + 1] ?? 0);
  }
  for (let i = 0; i < points.length; i += 2) {
    points[i] = (points[i] ?? 0) - left;
    points[i + 1] = top - (points[i + 1] ?? 0);
  }
  return { points, width: right - left, height: top - bottom, kind };
}

/** Whether a triangle is torn apart by the cut of the roll: flat, it is far longer than in space. */
export function isTorn(patch: PairPatch, flat: Flat, corners: readonly [number, number, number]): boolean {
  if (flat.kind === "flat") return false;
  return corners.some((i, k) => {
    const j = corners[(k + 1) % 3] ?? i;
    const difference = (values: Float32Array, width: number) =>
      Math.hypot(
        ...Array.from({ length: width }, (_, d) => (values[width * i + d] ?? 0) - (values[width * j + d] ?? 0)),
      );
    return difference(flat.points, 2) > TORN * difference(patch.positions, 3);
  });
}

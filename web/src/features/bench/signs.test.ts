import { expect, test } from "vitest";

import type { StudyDocument } from "@/api/client";
import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import type { Sign, Vec } from "@/scene/drawSigns";

import { dimensionSigns, signsOf, spotsOf } from "./signs";

/** A cube of 100 mm: its top of four triangles about the middle, its left side of two. */
const cube: BodySkin = {
  name: "cube",
  faces: ["top", "left"],
  positions: new Float32Array([
    0, 0, 100, 100, 0, 100, 100, 100, 100, 0, 100, 100, 50, 50, 100, 0, 0, 0, 0, 100, 0,
  ]), // prettier-ignore
  triangles: new Uint32Array([0, 1, 4, 1, 2, 4, 2, 3, 4, 3, 0, 4, 0, 3, 5, 3, 6, 5]),
  triangleFace: new Uint32Array([0, 0, 0, 0, 1, 1]),
  features: new Uint32Array(),
  edges: new Uint32Array(),
  rims: new Uint32Array(),
  rimFace: new Uint32Array(),
};
/** A plane section of 40 × 20 mm: bottom edge of two pieces, right edge of one. */
const section: BodySkin = {
  ...cube,
  name: "sheet",
  faces: ["near", "right"],
  positions: new Float32Array([0, 0, 0, 20, 0, 0, 40, 0, 0, 40, 20, 0]),
  triangles: new Uint32Array([0, 1, 3, 1, 2, 3]),
  triangleFace: new Uint32Array([2, 2]),
  rims: new Uint32Array([0, 1, 1, 2, 2, 3]),
  rimFace: new Uint32Array([0, 0, 1]),
};
const block = (...bodies: BodySkin[]): SceneBlock => ({ bodies, patches: [], bricks: {}, problems: [] });
const rounded = (v: Vec | undefined) => v?.map((x) => Math.round(1e6 * x) / 1e6 + 0);

const study = (more: object) => ({ parts: [{ id: "cube" }, { id: "sheet" }], ...more }) as unknown as StudyDocument;
const signs = (more: object, asleep = {}) => signsOf(study(more), block(cube), asleep);
const only = (found: Sign[]): Sign => {
  expect(found).toHaveLength(1);
  return found[0]!;
};

test("places on a face are spread over it, with the normal that points out", () => {
  const spots = spotsOf(block(cube), ["cube/top"], 4);
  expect(spots.map((s) => rounded(s.normal))).toEqual(Array(4).fill([0, 0, 1]));
  expect(new Set(spots.map((s) => rounded(s.at)?.join())).size).toBe(4);
  expect(spotsOf(block(cube), ["cube/left"], 1).map((s) => rounded(s.normal))).toEqual([[-1, 0, 0]]);
  expect(spotsOf(block(cube), ["cube/nothing", "other/top"], 4)).toEqual([]);
});

test("edges of a plane section are faces, their normals out of the section", () => {
  const [bottom] = spotsOf(block(section), ["sheet/near"], 1);
  expect([rounded(bottom?.at)?.[1], rounded(bottom?.normal)]).toEqual([0, [0, -1, 0]]);
  const right = spotsOf(block(section), ["sheet/right"], 9);
  expect(right.map((s) => [rounded(s.at), rounded(s.normal)])).toEqual([
    [
      [40, 10, 0],
      [1, 0, 0],
    ],
  ]);
});

const force = (direction: number[]) => ({
  loads: [{ id: "f", name: "Pull", kind: "force", faces: ["cube/top"], direction, values: { a: "1 kN", b: "5 kN" } }],
});

test("a force that pulls leaves its face, one that pushes ends on it; the value is that of the last step", () => {
  const pull = only(signs(force([0, 0, 2])));
  expect([pull.id, pull.text, pull.tone]).toEqual(["load/f", "Pull 5 kN", "load"]);
  expect(rounded(pull.lines[0]?.[0])).toEqual([50, 50, 100]);
  expect(pull.heads[0]?.tip[2]).toBeGreaterThan(101);
  const push = only(signs(force([0, 0, -2])));
  expect(rounded(push.heads[0]?.tip)).toEqual([50, 50, 100]);
  expect(push.lines[0]?.[0]?.[2]).toBeGreaterThan(101);
});

test("a pressure stands on its face in several places, pointing into it", () => {
  const pressure = { id: "p", name: "Oil", kind: "pressure", faces: ["cube/left"], values: { a: "2 MPa" } };
  const found = only(signs({ loads: [pressure] }));
  expect(found.heads.map((h) => rounded(h.along))).toEqual([
    [1, 0, 0],
    [1, 0, 0],
  ]);
  found.heads.forEach((h) => expect(h.tip[0]).toBeCloseTo(0));
});

const handles = [
  { id: "h", name: "Grip", at: ["1 cm", "20 mm", "1 in"], faces: ["cube/top"] },
  { id: "g", name: "Foot", at: ["10 mm", "20 mm", "0 mm"], faces: [] },
];

test("a turn goes round its axis at the handle, by the right hand", () => {
  const moment = { id: "m", name: "Torque", kind: "moment", handle: "h", direction: [0, 0, 1], values: { a: "9 N*m" } };
  const found = signs({ handles, loads: [moment] }).find((s) => s.id === "load/m")!;
  const arc = found.lines[0]!.map((p): Vec => [p[0] - 10, p[1] - 20, p[2] - 25.4]);
  const radii = arc.map((p) => Math.hypot(p[0], p[1]));
  expect(Math.max(...radii) - Math.min(...radii)).toBeLessThan(1e-6);
  const turned = arc.slice(1).map((p, i) => arc[i]![0] * p[1] - arc[i]![1] * p[0]);
  expect(Math.min(...turned)).toBeGreaterThan(0);
});

test("supports show the directions that they hold, out of the part", () => {
  const held = { id: "s", name: "Guide", kind: "components", faces: ["cube/left"], components: ["x", "z"] };
  const found = only(signs({ supports: [held] }));
  expect(found.text).toBe("Guide x, z");
  const sticks = found.lines
    .filter((_, i) => i % 2 === 0)
    .map(([a, b]) => rounded([b![0] - a![0], b![1] - a![1], b![2] - a![2]]));
  // Of each place one along −x, which is outwards, and one along z.
  expect(sticks.filter((d) => (d?.[0] ?? 0) < 0)).toHaveLength(2);
  expect(sticks.filter((d) => (d?.[2] ?? 0) > 0)).toHaveLength(2);
  expect(sticks).toHaveLength(4);
  const turns = { id: "t", name: "Held", kind: "components", handle: "g", components: ["turn-z"] };
  expect(signs({ handles, supports: [turns] }).find((s) => s.id === "support/t")?.lines[0]?.length).toBeGreaterThan(10);
});

test("every kind of item that has a place has a sign, and none that sleeps or has no place", () => {
  const all = {
    handles,
    loads: [
      { id: "w", name: "Weight", kind: "gravity", direction: [0, 0, -1], values: {} },
      { id: "widen", name: "Widen", kind: "radial", direction: [0, 0, 1], centre: ["1 m", "0 mm", "0 mm"], faces: ["cube/left"], values: {} }, // prettier-ignore
      { id: "spin", name: "Spin", kind: "spin", direction: [0, 0, 1], centre: ["0 mm", "0 mm", "0 mm"], values: {} },
      { id: "move", name: "Move", kind: "displacement", handle: "h", direction: [1, 0, 0], values: {} },
    ],
    supports: [
      { id: "fix", name: "Fix", kind: "fixed", faces: ["cube/left"] },
      { id: "mirror", name: "Mirror", kind: "symmetry", faces: ["cube/left"] },
      { id: "lost", name: "Lost", kind: "fixed", faces: ["gone/left"] },
    ],
    bolts: [{ id: "line", name: "Bolt", line: { head: "h", foot: "g" }, preload: { a: "9 kN" } }],
    springs: [{ id: "soft", name: "Soft", a: "h", b: null }],
    links: [{ id: "pin", name: "Pin", a: "h", b: "g", kind: "hinge", axis: "z" }],
    walls: [{ id: "floor", name: "Floor", kind: "plane", at: ["0 mm", "0 mm", "0 mm"], direction: [0, 0, 1] }],
  };
  expect(signs(all).map((s) => s.id).sort()).toEqual([
    "bolt/line", "handle/g", "handle/h", "link/pin", "load/move", "load/spin", "load/w", "load/widen", "spring/soft",
    "support/fix", "support/mirror", "wall/floor",
  ]); // prettier-ignore
  expect(signs(all, { support: ["fix"], handle: ["h", "g"] }).map((s) => s.id)).not.toContain("support/fix");
  // Away from the axis, on the side where the face is.
  const widen = signs(all).find((s) => s.id === "load/widen");
  expect(widen?.heads.length).toBeGreaterThan(0);
  widen?.lines.forEach(([from, to]) => expect(to![0]).toBeLessThan(from![0]));
  signs(all).forEach((s) => expect([s.id, s.lines.flat(2).every(Number.isFinite)]).toEqual([s.id, true]));
});

test("a dimension is a line with a head at both ends, its name and value in the middle", () => {
  const [sign] = dimensionSigns([
    { name: "length", label: "Length (x)", written: "10 cm", start: [0, 0, 0], end: [100, 0, 0] },
  ]);
  expect(sign).toMatchObject({ id: "dimension/length", text: "Length (x) 10 cm", at: [50, 0, 0] });
  expect(sign?.heads).toEqual([
    { tip: [0, 0, 0], along: [-1, 0, 0] },
    { tip: [100, 0, 0], along: [1, 0, 0] },
  ]);
});

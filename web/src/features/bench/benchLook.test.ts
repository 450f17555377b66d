import { expect, test } from "vitest";

import type { StudyDocument } from "@/api/client";
import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import { BOLT_COLOUR } from "@/scene/ramp";

import { benchLook, bodyColours, neighbours, smoothFaces, swung } from "./benchLook";
import { settled, takenApart } from "./handMove";

const body = (name: string, faces: string[]): BodySkin => ({
  name,
  faces,
  positions: new Float32Array([0, 0, 0, 3, 0, 0, 0, 3, 0]),
  triangles: new Uint32Array([0, 1, 2]),
  triangleFace: new Uint32Array([0]),
  features: new Uint32Array(),
  edges: new Uint32Array(),
  rims: new Uint32Array(),
  rimFace: new Uint32Array(),
});
const block: SceneBlock = {
  bodies: [body("plate", ["front"]), body("bolts#1", ["head"]), body("bolts#2", ["head"])],
  patches: [],
  bricks: {},
  problems: [],
};
const study = {
  parts: [
    { id: "plate", name: "Plate" },
    { id: "bolts", name: "Bolts" },
  ],
  bolts: [{ id: "b", name: "B", part: "bolts" }],
  pairs: [{ id: "heads", name: "Heads", a: ["bolts/head"], b: ["plate/front"] }],
  loads: [
    { id: "pull", name: "Pull", kind: "force", faces: ["plate/front"], direction: [0, 0, -1], values: { s: "5 kN" } },
    { id: "push", name: "Push", kind: "force", faces: ["plate/front"], direction: [1, 1, 0], values: {} },
  ],
} as unknown as StudyDocument;

test("a pair ghosts everything and colours the faces of all copies, side A on top", () => {
  const look = benchLook(study, block, { kind: "pair", id: "heads" });
  expect(look.looks).toEqual(["ghost", "ghost", "ghost"]);
  const a = look.highlights.filter((h) => h.face === "head");
  expect(a.map((h) => h.body)).toEqual(["bolts#1", "bolts#2"]);
  expect(a[0]?.lift).toBeGreaterThan(look.highlights.find((h) => h.face === "front")?.lift ?? 0);
});

test("a bolt group stands out, one copy's face can be named alone", () => {
  expect(benchLook(study, block, { kind: "bolt", id: "b" }).looks).toEqual(["ghost", "solid", "solid"]);
  const single = {
    ...study,
    pairs: [{ id: "heads", name: "Heads", a: ["bolts#2/head"], b: ["plate/front"] }],
  } as unknown as StudyDocument;
  const marks = benchLook(single, block, { kind: "pair", id: "heads" }).highlights;
  expect(marks.filter((h) => h.face === "head").map((h) => h.body)).toEqual(["bolts#2"]);
});

test("a picked face is marked, a whole part is recoloured", () => {
  expect(benchLook(study, block, { kind: "part", id: "plate", face: "front" }).highlights).toHaveLength(1);
  const whole = benchLook(study, block, { kind: "part", id: "plate" });
  expect(whole.highlights).toHaveLength(0);
  expect(whole.colours[0]).not.toBe(bodyColours(study, block)[0]);
});

test("copper is kept for what is tightened", () => {
  expect(bodyColours(study, block).map((c) => c === BOLT_COLOUR)).toEqual([false, true, true]);
});

test("faces that share an edge are neighbours, those that share a corner are not", () => {
  const skin: BodySkin = {
    ...body("plate", ["front", "side", "corner"]),
    triangles: new Uint32Array([0, 1, 2, 1, 2, 3, 2, 4, 5]),
    triangleFace: new Uint32Array([0, 1, 2]),
  };
  expect(neighbours({ ...block, bodies: [skin] }, "plate", "front")).toEqual(["side"]);
});

test("findings are looked at through the parts, measured faces on them", () => {
  const peek = { a: ["plate/front"], b: [] };
  expect(benchLook(study, block, { kind: "study", id: "" }, { peek }).looks).toEqual(["ghost", "ghost", "ghost"]);
  const on = benchLook(study, block, { kind: "study", id: "" }, { peek: { ...peek, isOnParts: true } });
  expect(on.looks).toEqual(["solid", "solid", "solid"]);
  expect(on.highlights).toHaveLength(1);
});

/** A strip of quads, each bent by some degrees from the one before, each a face of its own. */
function strip(degrees: number[]): BodySkin {
  const [positions, triangles, owner]: [number[], number[], number[]] = [[0, 0, 0, 0, 0, 1], [], []];
  let [x, y, heading] = [0, 0, 0];
  degrees.forEach((bend, i) => {
    heading += (bend * Math.PI) / 180;
    [x, y] = [x + Math.cos(heading), y + Math.sin(heading)];
    positions.push(x, y, 0, x, y, 1);
    triangles.push(2 * i, 2 * i + 1, 2 * i + 2, 2 * i + 2, 2 * i + 1, 2 * i + 3);
    owner.push(i, i);
  });
  return {
    ...body(
      "strip",
      degrees.map((_, i) => `face.${i}`),
    ),
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
    triangleFace: new Uint32Array(owner),
  };
}

test("what goes on from a face smoothly ends where an edge bends too much", () => {
  const bent = { ...block, bodies: [strip([0, 10, 15, 45, 5])] };
  expect(smoothFaces(bent, "strip", "face.1", 20).sort()).toEqual(["face.0", "face.1", "face.2"]);
  expect(smoothFaces(bent, "strip", "face.4", 20).sort()).toEqual(["face.3", "face.4"]);
  expect(smoothFaces(bent, "strip", "face.0", 60)).toHaveLength(5);
});

const box = (name: string, low: number[], high: number[]): BodySkin => ({
  ...body(name, []),
  positions: new Float32Array([...low, ...high]),
});

test("a body swings about its middle, its largest motion a share of the size of all", () => {
  // Turning about z: both corners go across their arm, as far as each other.
  const moved = swung(box("b", [10, 0, 0], [14, 2, 0]), { body: "b", motion: [0, 0, 0, 0, 0, 1] }, 100);
  expect(Math.hypot(moved[0] ?? 0, moved[1] ?? 0)).toBeCloseTo(5);
  expect((moved[0] ?? 0) * 2 + (moved[1] ?? 0) * 1).toBeCloseTo(0);
  expect(moved[3]).toBeCloseTo(-(moved[0] ?? 0));
});

test("a body moved by hand lines up with sides and middles, and else goes by whole steps", () => {
  const two = { ...block, bodies: [box("base", [0, 0, 0], [60, 60, 20]), box("pin", [100, 5, 5], [110, 25, 15])] };
  const name = (id: string) => id.toUpperCase();
  // Its low side comes to the high side of the base; along y it is nowhere near; z is across the view.
  const { by, says } = settled(two, "pin", [-39, 100.4, 7], 2, 3, name);
  expect(by).toEqual([-40, 100, 0]);
  expect(says).toBe("x −40.00 mm, the low side at the high side of BASE · y +100.0 mm");
  // A middle lines up with a middle only.
  expect(settled(two, "pin", [0, 14.2, 0], 2, 1.5, name).by).toEqual([0, 15, 0]);
});

test("bodies are taken apart from the middle of all, those about one middle along the longest axis", () => {
  const three = {
    ...block,
    bodies: [box("a", [0, 0, 0], [10, 2, 2]), box("b", [4, 0, 0], [6, 2, 2]), box("c", [8, 0, 0], [10, 2, 2])],
  };
  const off = takenApart(three, 1);
  expect(off[2]).toEqual([4, 0, 0]);
  expect(off[0]).toEqual([0, 0, 0]);
  expect(off[1]?.[0]).toBeGreaterThan(4);
});

import { expect, test } from "vitest";

import type { StudyDocument } from "@/api/client";
import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import { BOLT_COLOUR } from "@/scene/ramp";

import { benchLook, bodyColours, neighbours } from "./benchLook";

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

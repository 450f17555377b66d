import { expect, test } from "vitest";

import type { Preflight, StudyDocument } from "@/api/client";

import { jointGraph, startText } from "./jointGraph";

const part = (id: string, copies = 1) => ({
  id,
  name: id,
  material: "steel",
  recipe: { kind: "block" },
  mesh: { size: "1 mm" },
  placements: Array(copies).fill({}),
});
const pair = (id: string, a: string, b: string) => ({
  id,
  name: id,
  a: [a],
  b: [b],
  law: { may_open: true, may_slide: "friction", mu: 0.1 },
});
const study = {
  materials: [{ id: "steel", name: "Steel" }],
  parts: [part("wall"), part("bracket"), part("bolts", 4), part("eye")],
  pairs: [
    pair("flange", "bracket/back", "wall/front"),
    pair("heads", "bolts/head", "bracket/front"),
    pair("holes", "bracket/hole", "bolts#2/shank"),
    pair("nuts", "bolts/nut", "wall/back"),
    pair("pin", "eye/bore", "bracket/arm"),
  ],
  bolts: [{ id: "b", name: "B", part: "bolts", preload: { one: "40 kN" } }],
  supports: [{ id: "ground", name: "Ground", faces: ["wall/edge"] }],
  loads: [{ id: "pull", name: "Pull", kind: "force", faces: ["eye/rim"], values: { one: "5 kN", two: "9 kN" } }],
} as unknown as StudyDocument;

test("parts stand in levels above the ground", () => {
  const graph = jointGraph(study, {}, undefined);
  const y = Object.fromEntries(graph.nodes.map((n) => [n.id, n.y]));
  expect(y.eye).toBeLessThan(y.bracket ?? 0);
  expect(y.bracket).toBeLessThan(y.wall ?? 0);
});

test("pairs past other parts stand on the side and cover nothing", () => {
  const triangle = {
    ...study,
    parts: [part("fork"), part("lug"), part("pin")],
    bolts: [],
    supports: [],
    loads: [],
    pairs: [
      pair("a", "fork/x", "lug/y"),
      pair("b", "fork/z", "pin/s"),
      pair("c", "fork/w", "pin/s"),
      pair("d", "lug/h", "pin/s"),
    ],
  } as unknown as StudyDocument;
  const graph = jointGraph(triangle, {}, undefined);
  const aside = graph.links.filter((l) => l.isAside);
  expect(aside).toHaveLength(1);
  const between = graph.links.filter((l) => !l.isAside);
  for (const link of between)
    for (const node of graph.nodes)
      expect(Math.abs((link.labelY ?? 0) - (node.y + 21))).toBeGreaterThan(21 + 12 * link.pairs.length);
});

test("pairs between the same two parts share one line, copies are one node", () => {
  const graph = jointGraph(study, { "bolts#1": 100, "bolts#2": 100, wall: 1500 }, undefined);
  const line = graph.links.find((l) => l.key === "bolts|bracket");
  expect(line?.pairs.map((p) => p.id)).toEqual(["heads", "holes"]);
  const bolts = graph.nodes.find((n) => n.id === "bolts");
  expect(bolts).toMatchObject({ isBolt: true, copies: 4, detail: "preload 40 kN" });
  expect(graph.nodes.find((n) => n.id === "wall")?.detail).toBe("1 500 elements");
});

test("what preflight calls loose is marked, for any copy", () => {
  const preflight = {
    may_run: false,
    pairs: [],
    findings: [{ grade: "stop", code: "loose", text: "", body: "bolts#3" }],
  } as unknown as Preflight;
  const graph = jointGraph(study, {}, preflight);
  expect(graph.nodes.filter((n) => n.isLoose).map((n) => n.id)).toEqual(["bolts"]);
});

test("ground and loads hang on their parts", () => {
  const graph = jointGraph(study, {}, undefined);
  expect(graph.grounds).toEqual([{ part: "wall", holds: [{ kind: "support", id: "ground", name: "Ground" }] }]);
  expect(graph.loads[0]).toMatchObject({ part: "eye", text: "9 kN" });
});

test("a study without supports still has a map", () => {
  expect(jointGraph({ ...study, supports: [] }, {}, undefined).nodes).toHaveLength(4);
});

test("starting gaps are told in words", () => {
  expect([0, 0.592, -0.02, null, undefined].map(startText)).toEqual([
    "touching",
    "gap 0.59 mm",
    "overlap 20 µm",
    "not facing",
    "",
  ]);
});

test("a datum wall stands under the part that touches it, and is no line between parts", () => {
  const walled = {
    ...study,
    pairs: [{ id: "on", name: "Wall – rail", a: ["wall/edge"], b: [], wall: "rail" }],
    supports: [],
  } as unknown as StudyDocument;
  const graph = jointGraph(walled, {}, undefined);
  expect(graph.links).toEqual([]);
  expect(graph.grounds).toEqual([{ part: "wall", holds: [{ kind: "pair", id: "on", name: "Wall – rail" }] }]);
});

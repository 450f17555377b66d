import { expect, test } from "vitest";

import type { Preflight, StudyDocument } from "@/api/client";

import { jointGraph, startText } from "./jointGraph";
import { type Box, mapLayout } from "./mapLayout";

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

test("loads stand on top, then parts, what is nearer to the ground lower, and the ground at the bottom", async () => {
  const { boxes } = await mapLayout(jointGraph(study, {}, undefined));
  const order = ["load/pull", "part/eye", "part/bracket", "part/wall", "ground/wall"];
  const heights = order.map((key) => boxes[key]?.y ?? NaN);
  expect(heights).toEqual([...heights].sort((a, b) => a - b));
});

const overlap = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

const within = (a: Box, b: Box) =>
  a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;

/** Whether a line of upright and level pieces passes through a box. */
const passes = (points: { x: number; y: number }[], box: Box) =>
  points.slice(1).some((end, i) => {
    const start = points[i] ?? end;
    const [x, y] = [Math.min(start.x, end.x), Math.min(start.y, end.y)];
    return overlap({ x, y, width: Math.abs(start.x - end.x), height: Math.abs(start.y - end.y) }, box);
  });

/** Sixty parts: frames, each with covers, pins and bolts, in a row on one ground; every frame touches the next. */
function sixty(): StudyDocument {
  const stations = Array.from({ length: 10 }, (_, i) => i);
  const own = (i: number) => ["frame", "cover", "pin", "lever", "shaft", "screw"].map((n) => `${n}-${i}`);
  return {
    materials: [{ id: "steel", name: "Steel" }],
    parts: stations.flatMap((i) => own(i).map((id) => part(id, id.startsWith("screw") ? 4 : 1))),
    pairs: stations.flatMap((i) => [
      pair(`seat-${i}`, `cover-${i}/bottom`, `frame-${i}/top`),
      pair(`heads-${i}`, `screw-${i}/head`, `cover-${i}/top`),
      pair(`threads-${i}`, `screw-${i}/thread`, `frame-${i}/hole`),
      pair(`eye-${i}`, `pin-${i}/shank`, `lever-${i}/eye`),
      pair(`bore-${i}`, `pin-${i}/shank`, `frame-${i}/bore`),
      pair(`hub-${i}`, `lever-${i}/hub`, `shaft-${i}/seat`),
      pair(`bush-${i}`, `shaft-${i}/end`, `cover-${i}/bush`),
      pair(`screws-${i}`, `screw-${i}#1/head`, `screw-${i}#2/head`),
      ...(i ? [pair(`next-${i}`, `frame-${i}/left`, `frame-${i - 1}/right`)] : []),
    ]),
    bolts: stations.map((i) => ({ id: `b-${i}`, name: "Bolts", part: `screw-${i}`, preload: { one: "40 kN" } })),
    supports: [{ id: "ground", name: "Foundation of the frames", faces: stations.map((i) => `frame-${i}/foot`) }],
    loads: stations.map((i) => ({
      id: `l-${i}`,
      name: `Pull ${i}`,
      kind: "force",
      faces: [`lever-${i}/tip`],
      values: {},
    })),
  } as unknown as StudyDocument;
}

test.each([
  ["the small one", study],
  ["sixty parts", sixty()],
])("nothing on the map of %s lies on anything else, and lines pass no box but their own", async (_, document) => {
  const graph = jointGraph(document, {}, undefined);
  const { boxes, lines, width, height } = await mapLayout(graph);
  const all = Object.entries(boxes);
  expect(all).toHaveLength(graph.nodes.length + graph.links.length + graph.grounds.length + graph.loads.length);
  const overlaps = all.flatMap(([one, a], i) =>
    all.slice(i + 1).flatMap(([other, b]) => (overlap(a, b) ? [`${one} on ${other}`] : [])),
  );
  expect(overlaps).toEqual([]);
  const sheet = { x: -1, y: -1, width: width + 2, height: height + 2 };
  expect(all.filter(([, box]) => !within(box, sheet)).map(([key]) => key)).toEqual([]);
  const crossed = graph.links.flatMap((l) =>
    all.flatMap(([key, box]) => {
      const isOwn = [`part/${l.upper}`, `part/${l.lower}`, `pairs/${l.key}`].includes(key);
      return !isOwn && passes(lines[`pairs/${l.key}`] ?? [], box) ? [`${l.key} through ${key}`] : [];
    }),
  );
  expect(crossed).toEqual([]);
});

test("what is told later, of meshes and gaps, moves nothing on the map", async () => {
  const told = { findings: [], pairs: study.pairs!.map((p) => ({ id: p.id, gap: 0.123 })) } as unknown as Preflight;
  const [before, after] = [jointGraph(study, {}, undefined), jointGraph(study, { wall: 123456 }, told)];
  expect(after.links.flatMap((l) => l.joins.map((p) => p.text))).toContain("µ 0.1 · gap 0.12 mm");
  expect(await mapLayout(after)).toEqual(await mapLayout(before));
});

test("pairs between the same two parts share one line, copies are one node", () => {
  const graph = jointGraph(study, { "bolts#1": 100, "bolts#2": 100, wall: 1500 }, undefined);
  const line = graph.links.find((l) => l.key === "bolts|bracket");
  expect(line?.joins.map((p) => p.id)).toEqual(["heads", "holes"]);
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
  expect(graph.nodes.filter((n) => n.state !== "held").map((n) => [n.id, n.state])).toEqual([["bolts", "loose"]]);
});

test("what is held by friction alone is marked, and so is what is left out with its pairs", () => {
  const preflight = {
    findings: [{ grade: "watch", code: "friction-only", text: "", body: "bracket" }],
    pairs: [{ id: "pin", gap: 0.5 }],
  } as unknown as Preflight;
  const graph = jointGraph(study, {}, preflight, { part: ["eye"], pair: ["pin"] });
  expect(graph.nodes.map((n) => n.state)).toEqual(["held", "friction", "held", "asleep"]);
  expect(graph.links.find((l) => l.key === "bracket|eye")?.joins).toEqual([
    { kind: "pair", id: "pin", name: "pin", text: "µ 0.1 · asleep", isAsleep: true },
  ]);
});

test("ground and loads hang on their parts", () => {
  const graph = jointGraph(study, {}, undefined);
  expect(graph.grounds).toMatchObject([{ part: "wall", holds: [{ kind: "support", id: "ground", name: "Ground" }] }]);
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
  expect(graph.grounds).toMatchObject([{ part: "wall", holds: [{ kind: "pair", id: "on", name: "Wall – rail" }] }]);
});

test("links, springs and line bolts join parts through their handles, or stand on the ground", () => {
  const lined = {
    ...study,
    pairs: [],
    supports: [],
    handles: [
      { id: "one", name: "One", faces: ["wall/edge"] },
      { id: "two", name: "Two", faces: ["eye/hole"] },
      { id: "all", name: "All", part: "bracket" },
    ],
    links: [{ id: "hinge", name: "Hinge", a: "one", b: "two", kind: "hinge" }],
    springs: [
      { id: "soft", name: "Soft", a: "all", b: "two" },
      { id: "down", name: "Down", a: "all" },
    ],
    bolts: [{ id: "tie", name: "Tie", line: { head: "one", stiffness: "1 kN/mm" } }],
  } as unknown as StudyDocument;
  const graph = jointGraph(lined, {}, undefined, { link: ["hinge"] });
  expect(graph.links.map((l) => [l.key, l.joins.map((j) => [j.kind, j.text, j.isAsleep])])).toEqual([
    ["eye|wall", [["link", "hinge", true]]],
    ["bracket|eye", [["spring", "spring", false]]],
  ]);
  expect(graph.grounds.map((g) => [g.part, g.holds.map((h) => `${h.kind}/${h.id}`)])).toEqual([
    ["bracket", ["spring/down"]],
    ["wall", ["bolt/tie"]],
  ]);
});

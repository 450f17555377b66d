import { expect, test } from "vitest";

import type { DrawnShape } from "@/api/client";

import {
  asName,
  bow,
  gridFor,
  renamed,
  snapped,
  withBox,
  withCircle,
  withEdgeChanged,
  withEdgeSplit,
  withOutlineChanged,
  withRing,
  withoutEdge,
  withoutOutline,
} from "./drawing";

const EMPTY: DrawnShape = { outlines: [], layers: [{ name: "slab", height: "10 mm", outlines: [] }] };
const BOX = withBox(EMPTY, [0, 0], [40, 20], false);

test("a ring goes from corner to corner and back to the first, with its arcs where they were drawn", () => {
  const shape = withRing(
    EMPTY,
    [
      { at: [0, 0], arc: { turns: "right", radius: 10 } },
      { at: [40, 0] },
      { at: [40, 20], arc: { turns: "left", radius: 12 } },
      { at: [0, 20] },
    ],
    false,
  );
  const [body] = shape.outlines;
  expect(body?.edges?.map((e) => [e.name, ...e.to, e.arc?.turns])).toEqual([
    ["edge.1", "40 mm", "0 mm", undefined],
    ["edge.2", "40 mm", "20 mm", "left"],
    ["edge.3", "0 mm", "20 mm", undefined],
    ["edge.4", "0 mm", "0 mm", "right"],
  ]);
  expect(shape.layers?.[0]?.outlines).toEqual(["body"]);
});

test("what takes out goes through all layers, another body stands on the last one", () => {
  const two = { ...BOX, layers: [...BOX.layers!, { name: "hub", height: "5 mm", outlines: [] }] };
  const hub = withCircle(two, [20, 10], 12, false);
  const bored = withCircle(hub, [20, 10], 8, true);
  expect(bored.layers?.map((la) => la.outlines)).toEqual([
    ["body", "hole.1"],
    ["body.2", "hole.1"],
  ]);
  const named = withOutlineChanged(bored, 2, { name: "bore" });
  expect(named.layers?.[1]?.outlines).toEqual(["body.2", "bore"]);
  expect(withoutOutline(named, 1).layers?.map((la) => la.outlines)).toEqual([["body", "bore"], ["bore"]]);
});

test("edges are halved, taken out, and known again by their place when they are renamed", () => {
  const halved = withEdgeSplit(BOX, { outline: 0, edge: 0 }, [20, 0]);
  expect(halved.outlines[0]?.edges?.map((e) => [e.name, e.to[0]])).toEqual([
    ["edge.1", "20 mm"],
    ["edge.5", "40 mm"],
    ["edge.2", "40 mm"],
    ["edge.3", "0 mm"],
    ["edge.4", "0 mm"],
  ]);
  expect(withoutEdge(halved, { outline: 0, edge: 1 }).outlines[0]?.edges).toHaveLength(4);
  const seat = withEdgeChanged(BOX, { outline: 0, edge: 2 }, { name: "seat" });
  expect(renamed(BOX, seat)).toEqual({ "edge.3": "seat" });
  expect(renamed(BOX, halved)).toEqual({});
  const triangle = withRing(EMPTY, [{ at: [0, 0] }, { at: [9, 0] }], false);
  expect(withoutEdge(triangle, { outline: 0, edge: 0 })).toBe(triangle);
});

test("a pointer keeps to places within reach, to lines, then to the grid", () => {
  expect(snapped([9.6, 0.3], 1, 1, [[10, 0]], [])).toEqual({ at: [10, 0], by: "place" });
  expect(snapped([9.6, 4.4], 0.5, 1, [[10, 0]], [[9.3, 0]])).toEqual({ at: [9.3, 4], by: "line" });
  expect(snapped([9.6, 4.4], 0.1, 0.5, [[10, 0]], [])).toEqual({ at: [9.5, 4.5], by: "grid" });
  expect([gridFor(120, 40), gridFor(120, 200), gridFor(3000, 40)]).toEqual([5, 1, 100]);
});

test("an arc that is drawn bends to its side; one that cannot be is straight", () => {
  const left = bow([0, 0], [20, 0], { turns: "left", radius: 10 });
  expect(left[12]![1]).toBeCloseTo(-10);
  expect(bow([0, 0], [20, 0], { turns: "right", radius: 10 })[12]![1]).toBeCloseTo(10);
  expect(bow([0, 0], [20, 0], { turns: "left", radius: 5 })).toHaveLength(2);
});

test("names hold what faces may be called", () => {
  expect([asName(" Seal Seat! "), asName("..a b"), asName("lip.1")]).toEqual(["seal-seat", "a-b", "lip.1"]);
});

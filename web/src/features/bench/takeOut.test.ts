import { expect, test } from "vitest";

import type { StudyDocument } from "@/api/client";

import { freeId, takeOut } from "./PartPlace";
import { withoutStep } from "./StepInspector";

const study = {
  parts: [{ id: "pin" }, { id: "lug" }],
  pairs: [
    { id: "a", a: ["lug/hole"], b: ["pin#2/shank"] }, { id: "b", a: ["lug/top", "pin/top"], b: ["lug/side"] },
    { id: "c", a: ["lug/hole"], b: [], wall: "floor", released: ["two"] },
  ],
  bolts: [{ id: "t", part: "pin", preload: { one: "1 kN", two: "2 kN" } }],
  supports: [{ id: "s", faces: ["pin/end"], released: ["two", "one"] }, { id: "h", handle: "grip", faces: [] }],
  loads: [{ id: "l", faces: ["lug/root", "pin/end"], values: { one: "1 kN", two: "off" }, courses: { two: [] } }],
  steps: [{ id: "one" }, { id: "two" }],
} as unknown as StudyDocument;

const values = (patch: { path: string; value?: unknown }[]) => Object.fromEntries(patch.map((p) => [p.path, p.value])) as Record<string, Record<string, unknown>[]>;

test("a part goes with what stands on its faces alone, and what also names others stays", () => {
  const after = values(takeOut(study, "pin"));
  expect(after["/parts"]?.map((p) => p.id)).toEqual(["lug"]);
  expect(after["/pairs"]).toMatchObject([{ id: "b", a: ["lug/top"] }, { id: "c" }]);
  expect(after["/bolts"]).toEqual([]);
  expect(after["/supports"]?.map((s) => s.id)).toEqual(["h"]);
  expect(after["/loads"]).toMatchObject([{ faces: ["lug/root"] }]);
});

test("a step goes with all that was to happen in it", () => {
  const after = values(withoutStep(study, "two"));
  expect(after["/steps"]?.map((s) => s.id)).toEqual(["one"]);
  expect(after["/loads"]).toMatchObject([{ values: { one: "1 kN" }, courses: {} }]);
  expect(after["/bolts"]).toMatchObject([{ preload: { one: "1 kN" } }]);
  expect(after["/supports"]?.[0]?.released).toEqual(["one"]);
  expect(after["/pairs"]?.[2]?.released).toEqual([]);
});

test("new ids are free", () => {
  expect(freeId("hold", [])).toBe("hold");
  expect(freeId("hold", [{ id: "hold" }, { id: "hold-2" }])).toBe("hold-3");
});

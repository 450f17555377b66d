import { expect, test } from "vitest";

import { STUDY, applied, objections } from "@/tests/document";

import { copyOfStep, movedStep } from "./steps";

const [tighten, pull, settle] = STUDY.steps!;

test("a copy of a step does again what is done in it, and says the same of every item", () => {
  const study = applied(STUDY, [
    { op: "add", path: "/loads/0/courses/pull", value: [{ at: 0.5, value: "9 kN" }] },
    { op: "add", path: "/supports/0/released", value: ["pull"] },
  ]);
  const { id, patch } = copyOfStep(study, pull!);
  const after = applied(study, patch);
  expect(after.steps?.map((s) => s.id)).toEqual([tighten!.id, "pull", id, settle!.id]);
  expect(after.steps?.[2]).toEqual({ ...pull, id, name: "Pull up, again" });
  expect(after.loads?.[0]?.values?.[id]).toBe("30 kN");
  expect(after.loads?.[0]?.courses?.[id]).toEqual([{ at: 0.5, value: "9 kN" }]);
  expect(after.supports?.[0]?.released).toEqual(["pull", id]);
  expect(objections(after)).toEqual([]);
  // What is said of the others stays as it was.
  for (const [i, bolt] of (study.bolts ?? []).entries())
    expect(after.bolts?.[i]?.preload).toEqual({
      ...bolt.preload,
      ...(bolt.preload?.pull && { [id]: bolt.preload.pull }),
    });
});

test("a step moves by one place, and not out of the sequence", () => {
  const order = (patch: ReturnType<typeof movedStep>) => applied(STUDY, patch ?? []).steps?.map((s) => s.id);
  expect(order(movedStep(STUDY, pull!, -1))).toEqual(["pull", "tighten", "settle"]);
  expect(order(movedStep(STUDY, pull!, 1))).toEqual(["tighten", "settle", "pull"]);
  expect(movedStep(STUDY, tighten!, -1)).toBeUndefined();
  expect(movedStep(STUDY, settle!, 1)).toBeUndefined();
});

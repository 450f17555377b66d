import { expect, test } from "vitest";

import type { RunEvent, Summary } from "@/api/client";

import { progressOf, shareDone, tell } from "./story";

const iteration = (number: number, flips: number): RunEvent => ({
  kind: "iteration",
  step: 0,
  time: 0.5,
  number,
  change: 10 ** -number,
  status_changes: flips,
  unknowns: 10,
  seconds: 1,
});
const increment = (step: number, time: number, iterations: number, kept = true): RunEvent => ({
  kind: "increment",
  seconds: 2,
  kept,
  summary: { step, time, iterations } as Summary,
});

test("many changes at first touch are told as normal, a halved increment as a thing to watch", () => {
  const lines = tell(
    [
      iteration(1, 900),
      iteration(2, 40),
      increment(0, 0.5, 7),
      { kind: "cutback", step: 0, time: 0.5, size: 0.25, slowly: false, seconds: 3 },
      { kind: "cutback", step: 0, time: 0.5, size: 0.5, slowly: true, seconds: 3 },
    ],
    ["Preload"],
  );
  expect(lines[2]).toMatchObject({ tone: "watch", text: expect.stringContaining("let go bit by bit") as string });
  expect(lines[0]).toMatchObject({ tone: "good", text: "50 % of step 1 reached in 7 iterations." });
  expect(lines[0]?.detail).toContain("940 contact nodes changed state: normal at first touch");
  expect(lines[1]).toMatchObject({
    tone: "watch",
    text: "Did not settle; the increment is halved to 25.0 % of the step.",
  });
});

test("the end of a run carries its reason and advice", () => {
  const end: RunEvent = {
    kind: "end",
    status: "failed",
    message: "the worker process ended.",
    where: "",
    hint: "Run again.",
    seconds: null,
  };
  const moving = [{ body: "slider", motion: [1, 0, 0, 0, 0, 0] as [number, number, number, number, number, number] }];
  const told = tell([{ ...end, mechanism: moving }], [])[0];
  expect(told).toMatchObject({ text: "the worker process ended.", moving });
  expect(tell([end], [])[0]).toMatchObject({ tone: "bad", text: "the worker process ended.", detail: "Run again." });
});

test("a resumed run tells where it goes on and counts what it took over", () => {
  const resumed: RunEvent = { kind: "resumed", step: 1, time: 0.25, number: 5, seconds: 1 };
  expect(tell([resumed], [])[0]?.text).toBe("Goes on after increment 5, at 25 % of step 2.");
  expect(progressOf([resumed, increment(1, 0.5, 3)])).toMatchObject({ before: 5, kept: { count: 6 } });
  // Where not all are kept, the state that can be shown is the last of those that are.
  const fewer = [{ ...resumed, kept: 2 }, increment(1, 0.5, 3), increment(1, 0.75, 3, false)];
  expect(progressOf(fewer)).toMatchObject({ before: 5, kept: { count: 3 }, increments: { length: 2 } });
});

test("the run says how it is solved, and why", () => {
  const solve: RunEvent = {
    kind: "phase",
    phase: "solve",
    seconds: 1,
    joint_unknowns: 4249,
    factor_seconds: 0,
    path: "condensed",
  };
  expect(tell([{ ...solve, reused: true }], [])[0]?.text).toContain("nothing is factored");
  expect(tell([{ ...solve, factor_seconds: 3 }], [])[0]?.text).toContain("from here only the joints are solved");
  const full = tell(
    [{ ...solve, path: "mixed", reason: "a material yields; parts that stay elastic are condensed" }],
    [],
  )[0];
  expect(full).toMatchObject({ detail: "Because a material yields; parts that stay elastic are condensed." });
  const large = tell([{ ...solve, path: "iterative", reason: "the joints have 40375 unknowns" }], [])[0];
  expect(large?.text).toContain("nothing is factored");
  expect(large?.detail).toBe("Because the joints have 40375 unknowns.");
});

test("progress counts iterations through all increments", () => {
  const events = [iteration(1, 3), iteration(2, 0), increment(0, 1, 2), iteration(1, 0), increment(1, 0.5, 1)];
  expect(progressOf(events).residual.map((r) => r.x)).toEqual([1, 2, 3]);
  expect(progressOf(events).increments.map((p) => p.at)).toEqual([2, 3]);
  expect(shareDone(events, 3)).toBeCloseTo(0.5);
});

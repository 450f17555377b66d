import { cleanup, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { RunEvent, RunInfo } from "@/api/client";
import { press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { runOf } from "@/tests/runs";
import { answering, studyAt, withCache } from "@/tests/server";
import { useNotices } from "@/ui/notices";

import { RunView } from "./RunView";

vi.mock("./LastState", () => ({ LastState: ({ kept }: { kept: { count: number } }) => <p>state {kept.count}</p> }));
vi.mock("./Plot", () => ({ Plot: ({ title, x }: { title: string; x: number[] }) => <p>{`${title}: ${x.length}`}</p> }));
let events: RunEvent[] = [];
vi.mock("@/api/useRunEvents", () => ({ useRunEvents: () => events }));

beforeEach(() => {
  events = [];
  useNotices.setState({ notices: [] });
});
afterEach(cleanup);

function view(runs: RunInfo[], runId?: number) {
  const asked = answering(({ method }) => ({ body: method === "GET" ? runs : runOf(9, "queued") }));
  const { Wrapper } = withCache();
  render(<RunView info={studyAt(1, STUDY)} runId={runId} />, { wrapper: Wrapper });
  return asked;
}
const posts = (asked: { method: string; path: string }[]) =>
  asked.filter((a) => a.method === "POST").map((a) => a.path);
const buttons = () => screen.getAllByRole("button").map((b) => b.textContent);

test("a study that was never run is run from here", async () => {
  const asked = view([]);
  await screen.findByText("This study has not been run yet.");
  await press("Run it now");
  await waitFor(() => expect(posts(asked)).toEqual(["/api/studies/1/runs"]));
});

test.each([
  ["queued", "waits for its turn", ["Stop"]],
  ["running", "is running", ["Stop"]],
  ["solved", "is solved", ["Run again"]],
  ["not-converged", "did not converge", ["Run again"]],
  ["failed", "failed", ["Run again"]],
] as const)("a run that is %s says that it %s, and offers what can be done", async (status, words, offered) => {
  view([runOf(4, status)]);
  expect((await screen.findByTestId("run-status")).textContent).toBe(`Run 4 of r1 ${words}`);
  expect(buttons()).toEqual(offered);
  expect(screen.queryByRole("link", { name: "Review" })).toBeNull();
  expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe(status === "solved" ? "100" : "0");
});

test("a stopped run with increments is reviewed, gone on from, or run again", async () => {
  const asked = view([runOf(5, "stopped", { increments: 3, may_resume: true, resumed_from: 4 }), runOf(4, "failed")]);
  expect((await screen.findByTestId("run-status")).textContent).toContain("going on from run 4, was stopped");
  expect(screen.getByRole("link", { name: "Review" }).getAttribute("href")).toBe("/studies/1/review");
  await press("Resume from increment 3");
  await waitFor(() => expect(posts(asked)).toEqual(["/api/runs/5/resume"]));
});

test("a run is stopped, and a refusal is told", async () => {
  const problem = { code: "unknown", message: "there is no run 6.", where: "run", hint: "It may have been deleted." };
  answering(({ method }) => (method === "GET" ? { body: [runOf(6, "running")] } : { status: 404, body: problem }));
  const { Wrapper } = withCache();
  render(<RunView info={studyAt(1, STUDY)} runId={6} />, { wrapper: Wrapper });
  await screen.findByTestId("run-status");
  await press("Stop");
  await waitFor(() => expect(useNotices.getState().notices[0]?.text).toBe("there is no run 6."));
});

test("the story, the share done and the plots follow the events", async () => {
  const iteration = { kind: "iteration", step: 0, time: 0.5, number: 1, change: 0.1, status_changes: 7, unknowns: 900 };
  const increment = { kind: "increment", kept: true, summary: { step: 0, number: 1, time: 0.5, iterations: 2 } };
  events = [
    { kind: "step", step: 0, name: "tighten", seconds: 1 },
    { ...iteration, seconds: 2 },
    { ...iteration, number: 2, change: 1e-9, status_changes: 0, seconds: 3 },
    { ...increment, seconds: 64 },
  ] as unknown as RunEvent[];
  view([runOf(7, "running", { increments: 1 })]);
  await screen.findByTestId("run-status");
  expect(screen.getByText("Step 1, Tighten, begins.")).toBeTruthy();
  expect(screen.getByText("1 increments · 2 iterations · 1 min 4 s")).toBeTruthy();
  expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("17");
  expect(screen.getByText("state 1")).toBeTruthy();
  expect(screen.getByText("Contact nodes that changed state: 2")).toBeTruthy();
  expect(screen.getByText("Iterations per increment: 1")).toBeTruthy();
});

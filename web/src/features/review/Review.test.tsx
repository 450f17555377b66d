import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";

import type { RunInfo, StudyDocument } from "@/api/client";
import { press } from "@/tests/controls";
import { STUDY, applied } from "@/tests/document";
import { SUMMARY, runOf } from "@/tests/runs";
import { answering, emptyScene, studyAt, withCache } from "@/tests/server";

import { Review } from "./Review";

afterEach(cleanup);

const HISTORY = [0.5, 1].map((time, i) => ({ ...SUMMARY, time, number: i + 1, values: { pull: 30_000 * time } }));
const LEDGER = { increment: 2, closing_error: 1e-12, remarks: [], rows: [] };
const before: StudyDocument = applied(STUDY, [{ op: "replace", path: "/loads/0/values/pull", value: "60 kN" }]);
const AMOUNTS = { loads: { pull: { pull: 60_000 } }, courses: {}, bolts: {} };

function review(runs: RunInfo[]) {
  const asked = answering(({ path }) => {
    if (path.endsWith("/runs")) return { body: runs };
    if (path.endsWith("/document")) return { body: { document: before, amounts: AMOUNTS } };
    if (path.endsWith("/history")) return { body: HISTORY };
    if (path.endsWith("/scene")) return { body: emptyScene() };
    return { body: path.endsWith("/ledger") ? LEDGER : new Uint8Array() };
  });
  const { Wrapper } = withCache();
  render(<Review info={studyAt(3, STUDY)} />, { wrapper: Wrapper });
  return asked;
}
const solved = (id: number, more: Partial<RunInfo> = {}) =>
  runOf(id, "solved", { increments: 2, revision: 3, ...more });

test("there is nothing to review before a run has an increment", async () => {
  review([runOf(1, "running")]);
  expect(await screen.findByText("There is nothing to review yet: run the study first.")).toBeTruthy();
});

test("the last increment of the newest run that has some is shown, of the study as it was solved", async () => {
  const asked = review([solved(5)]);
  expect((await screen.findByTestId("shown")).dataset.shown).toBe("pair/seat/pressure/1");
  expect(screen.getByText("run 5, r3")).toBeTruthy();
  expect(screen.queryByRole("alert")).toBeNull();
  expect(
    asked
      .filter((a) => a.path.endsWith("/ledger"))
      .at(-1)
      ?.query.get("increment"),
  ).toBe("1");
  // The board writes what was asked of this run, not what the study has been changed to since.
  expect(screen.getByRole("button", { name: "Pull, Pull up: 0 → 60 kN" })).toBeTruthy();
});

test("an earlier run is said to be one, with what became of the later", async () => {
  review([runOf(6, "failed", { message: "Pad is loose.", hint: "Add a pair." }), solved(5, { revision: 2 })]);
  const told = (await screen.findByTestId("older-run")).textContent;
  expect(told).toBe("These are the results of run 5. The latest, run 6, has none: Pad is loose. Add a pair.");
  expect(screen.getByText("· study edited since")).toBeTruthy();
});

test("a run that did not come to its end is said to be one", async () => {
  review([solved(5, { status: "not-converged", message: "Seat slides away." })]);
  const told = (await screen.findByTestId("unfinished-run")).textContent;
  expect(told).toContain("Run 5 did not come to its end: Seat slides away.");
});

test("the play head moves over the increments, by keys and by itself", async () => {
  const asked = review([solved(5)]);
  await screen.findByTestId("shown");
  screen.getByRole("slider", { name: "Play head" }).focus();
  await userEvent.keyboard("{ArrowLeft}");
  expect(screen.getByTestId("shown").dataset.shown).toBe("pair/seat/pressure/0");
  await waitFor(() => expect(asked.some((a) => a.query.get("increment") === "0")).toBe(true));
  await press("Play");
  await waitFor(() => expect(screen.getByTestId("shown").dataset.shown).toBe("pair/seat/pressure/1"));
  await press("Pause");
  expect(screen.getByRole("button", { name: "Play" })).toBeTruthy();
});

import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { Router } from "wouter";
import { memoryLocation } from "wouter/memory-location";

import { press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { runOf } from "@/tests/runs";
import { type Exchange, answering, studyAt, withCache } from "@/tests/server";

import { StudyPage } from "./StudyPage";
import { useSelection } from "./selection";

vi.mock("./bench/Bench", () => ({ Bench: () => <textarea aria-label="bench" /> }));
vi.mock("./run/RunView", () => ({ RunView: () => <p>run view</p> }));
vi.mock("./review/Review", () => ({ Review: () => <p>review view</p> }));

afterEach(cleanup);

type Answer = { status?: number; body: unknown } | undefined;
const CHECKED = { may_run: true, findings: [], pairs: [], size: null };

function page(view: string, answer: (asked: Exchange) => Answer = () => undefined) {
  const asked = answering((one) => {
    const own = answer(one);
    if (own) return own;
    if (one.path.endsWith("/preflight")) return { body: CHECKED };
    if (one.path.endsWith("/runs")) return { body: runOf(1, "queued") };
    return { body: { ...studyAt(4, STUDY), undo: "µ of Seat", redo: null } };
  });
  const place = memoryLocation({ path: `/studies/1/${view}`, record: true });
  const { Wrapper } = withCache();
  render(
    <Router hook={place.hook}>
      <StudyPage id={1} view={view} />
    </Router>,
    { wrapper: Wrapper },
  );
  return { asked, place };
}
const run = () => screen.getByRole<HTMLButtonElement>("button", { name: "Check and run" });
const undone = (asked: Exchange[]) =>
  asked.filter((a) => /undo|redo/.test(a.path)).map((a) => a.path.split("/").at(-1));

test("the head names the study, its revision, and what undo would take back", async () => {
  useSelection.setState({ selected: { kind: "pair", id: "of another study" } });
  const { asked } = page("bench");
  expect((await screen.findByTestId("revision")).textContent).toBe("r4");
  expect(useSelection.getState().selected).toEqual({ kind: "study", id: "" });
  expect(screen.getByRole("button", { name: /^Undo/ }).title).toBe("Undo: µ of Seat");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: /^Redo/ }).disabled).toBe(true);
  await press(/^Undo/);
  await waitFor(() => expect(undone(asked)).toEqual(["undo"]));
});

test("the keys undo and redo, but not while something is typed", async () => {
  const { asked } = page("bench");
  await screen.findByTestId("revision");
  await userEvent.type(screen.getByLabelText("bench"), "{Control>}z{/Control}");
  expect(undone(asked)).toEqual([]);
  screen.getByLabelText("bench").blur();
  await userEvent.keyboard("{Control>}z{/Control}");
  await waitFor(() => expect(undone(asked)).toEqual(["undo"]));
  await userEvent.keyboard("{Control>}{Shift>}Z{/Shift}{/Control}");
  await waitFor(() => expect(undone(asked)).toEqual(["undo", "redo"]));
});

test.each([
  ["run", "run view"],
  ["review", "review view"],
])("the view '%s' is shown and marked among the views", async (view, text) => {
  page(view);
  expect(await screen.findByText(text)).toBeTruthy();
  const current = screen.getAllByRole("link").filter((l) => l.getAttribute("aria-current") === "page");
  expect(current.map((l) => l.getAttribute("href"))).toEqual([`/studies/1/${view}`]);
});

test("a run is started once the findings allow it, and its view follows", async () => {
  const { asked, place } = page("bench");
  await screen.findByTestId("revision");
  await userEvent.click(run());
  await waitFor(() => expect(place.history.at(-1)).toBe("/studies/1/run"));
  expect(asked.some((a) => a.method === "POST" && a.path === "/api/studies/1/runs")).toBe(true);
});

test.each<[string, Answer, string]>([
  ["has a stop", { body: { ...CHECKED, may_run: false } }, "Preflight has something that must be mended first"],
  [
    "fails",
    { status: 500, body: { code: "fault", message: "no", where: "", hint: "" } },
    "Preflight could not be made",
  ],
])("a run is not offered while preflight %s, and the button says why", async (_, found, why) => {
  page("bench", ({ path }) => (path.endsWith("/preflight") ? found : undefined));
  await screen.findByTestId("revision");
  await waitFor(() => expect(run().disabled).toBe(true));
  expect(run().title).toBe(why);
});

test("a study that cannot be read says what is wrong and leads back to the shelf", async () => {
  const problem = { code: "input", message: "the stored document is damaged.", where: "document", hint: "Delete it." };
  page("bench", ({ path }) => (path === "/api/studies/1" ? { status: 422, body: problem } : undefined));
  expect(await screen.findByText(/the stored document is damaged. Delete it./)).toBeTruthy();
  expect(screen.getByRole("link", { name: "Back to the shelf" }).getAttribute("href")).toBe("/");
});

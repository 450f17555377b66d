import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Router } from "wouter";
import { memoryLocation } from "wouter/memory-location";

import type { StudyInfo } from "@/api/client";
import { STUDY } from "@/tests/document";
import { answering, studyAt, withCache } from "@/tests/server";

import { CommandBar } from "./CommandBar";
import { SHORTCUTS, useCommands } from "./commands";
import { itemsOf, labelOf, namedKinds } from "./items";
import { useSelection } from "./selection";

beforeEach(() => {
  useSelection.setState({ selected: { kind: "study", id: "" } });
});
afterEach(cleanup);

function bar(more: Partial<StudyInfo> = {}) {
  const asked = answering(() => ({ body: studyAt(2, STUDY) }));
  const [run, settle] = [vi.fn(), vi.fn()];
  const place = memoryLocation({ path: "/studies/1/review", record: true });
  const { Wrapper } = withCache([studyAt(1, STUDY)]);
  render(
    <Router hook={place.hook}>
      <CommandBar info={{ ...studyAt(1, STUDY), ...more }} onRun={run} onSettle={settle} />
    </Router>,
    { wrapper: Wrapper },
  );
  return { asked, run, settle, place };
}
const options = () => screen.queryAllByRole("listitem").map((li) => li.textContent ?? "");

test("every item of every kind is reached by its name and by what it is", async () => {
  const { place } = bar();
  for (const kind of namedKinds()) {
    const item = itemsOf(STUDY, kind)[0]!;
    await userEvent.keyboard("{Control>}k{/Control}");
    await userEvent.type(
      await screen.findByRole("textbox", { name: "Find or do" }),
      `${labelOf(kind)} ${item.name}{Enter}`,
    );
    expect(useSelection.getState().selected, kind).toEqual({ kind, id: item.id });
    expect(place.history.at(-1)).toBe("/studies/1/bench");
  }
});

test("views and actions are found among them, with the keys and the pointer", async () => {
  const { run, settle, asked, place } = bar();
  await userEvent.click(screen.getByRole("button", { name: /Find or do/ }));
  expect(options()[0]).toContain("Check and run");
  await userEvent.keyboard("{ArrowDown}{ArrowDown}{ArrowUp}{Enter}");
  await waitFor(() => expect(asked.at(-1)?.path).toBe("/api/studies/1/undo"));
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "check");
  expect(options()).toEqual(["Check and run action"]);
  await userEvent.click(screen.getByText("Check and run"));
  expect(run).toHaveBeenCalledTimes(1);
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "settle{Enter}");
  expect(settle).toHaveBeenCalledTimes(1);
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "shelf{Enter}");
  expect(place.history.at(-1)).toBe("/");
});

test("a name that nothing has says so, and does nothing", async () => {
  const { run, asked } = bar();
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "turbine{Enter}");
  expect(options()).toEqual(["Nothing of that name."]);
  expect([run.mock.calls.length, asked.length]).toEqual([0, 0]);
});

function Offering({ onGo }: { onGo: () => void }) {
  useCommands("view", [{ key: "find", label: "Find pairs", go: onGo }]);
  return null;
}

test("what a view offers is done from the bar as long as the view is shown", async () => {
  const go = vi.fn();
  bar();
  const { unmount } = render(<Offering onGo={go} />);
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "find pairs{Enter}");
  expect(go).toHaveBeenCalledTimes(1);
  unmount();
  await userEvent.keyboard("{Control>}k{/Control}");
  await userEvent.type(await screen.findByRole("textbox", { name: "Find or do" }), "find pairs");
  expect(options()).toEqual(["Nothing of that name."]);
});

test("every key is on the page of keys, and those of actions stand beside them in the bar", async () => {
  bar();
  await userEvent.keyboard("?");
  const keys = await screen.findByRole("dialog", { name: "Keys" });
  expect(keys.querySelectorAll("kbd")).toHaveLength(SHORTCUTS.length);
  await userEvent.keyboard("{Escape}");
  await userEvent.keyboard("{Control>}k{/Control}");
  await screen.findByRole("textbox", { name: "Find or do" });
  const shown = [...document.querySelectorAll("[role=dialog] kbd")].map((k) => k.textContent ?? "");
  expect(shown.length).toBeGreaterThan(2);
  expect(shown.filter((k) => !SHORTCUTS.some((s) => s.keys === k))).toEqual([]);
});

test("what undo would take back is told, but a search for its name finds the thing itself", async () => {
  bar({ undo: "Direction of Seat" });
  await userEvent.keyboard("{Control>}k{/Control}");
  await screen.findByRole("textbox", { name: "Find or do" });
  expect(options().some((text) => text.startsWith("Undo: Direction of Seat"))).toBe(true);
  await userEvent.type(screen.getByRole("textbox", { name: "Find or do" }), "seat{Enter}");
  expect(useSelection.getState().selected).toEqual({ kind: "pair", id: "seat" });
});

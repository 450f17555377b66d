import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { StudyDocument, Summary } from "@/api/client";
import { useSelection } from "@/features/selection";

import { Board } from "./Board";

beforeEach(() => {
  useSelection.setState({ selected: { kind: "study", id: "" } });
});
afterEach(cleanup);

const STUDY = {
  steps: [
    { id: "a", name: "First", increments: { largest: 0.25 } },
    { id: "b", name: "Second", increments: { largest: 0.5 } },
  ],
  loads: [{ id: "pull", name: "Pull", kind: "force", faces: ["lug/top"], values: { a: "500 N" } }],
} as unknown as StudyDocument;
const AMOUNTS = { loads: { pull: { a: 500 } }, courses: {}, bolts: {} };

test("a cell is typed over, filled and emptied as an edit of the load's values", async () => {
  const edit = vi.fn().mockResolvedValue(undefined);
  render(<Board study={STUDY} amounts={AMOUNTS} onEdit={edit} />);
  expect(screen.getByText("4 inc or more")).toBeTruthy();
  expect(screen.getByText("2 inc or more")).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: "Pull, Second: held" }));
  await userEvent.type(screen.getByLabelText("Pull in Second"), "1 kN{Enter}");
  expect(edit).toHaveBeenLastCalledWith([{ op: "add", path: "/loads/0/values/b", value: "1 kN" }], "Pull in Second");
  await userEvent.click(screen.getByRole("button", { name: "Pull, First: 0 → 500 N" }));
  const first = screen.getByLabelText("Pull in First");
  await userEvent.clear(first);
  await userEvent.type(first, "{Enter}");
  expect(edit).toHaveBeenLastCalledWith([{ op: "remove", path: "/loads/0/values/a" }], "Pull in First");
});

test("cells are copied, pasted and cleared from the keyboard; a step that is left out shows nothing", async () => {
  const edit = vi.fn().mockResolvedValue(undefined);
  render(<Board study={STUDY} amounts={AMOUNTS} asleep={{ step: ["b"] }} onEdit={edit} />);
  expect(screen.getByText("left out")).toBeTruthy();
  screen.getByRole("button", { name: "Pull, First: 0 → 500 N" }).focus();
  await userEvent.keyboard("{Control>}c{/Control}");
  screen.getByRole("button", { name: "Pull, Second: nothing" }).focus();
  await userEvent.keyboard("{Control>}v{/Control}");
  expect(edit).toHaveBeenLastCalledWith([{ op: "add", path: "/loads/0/values/b", value: "500 N" }], "Pull in Second");
  screen.getByRole("button", { name: "Pull, First: 0 → 500 N" }).focus();
  await userEvent.keyboard("{Delete}");
  expect(edit).toHaveBeenLastCalledWith([{ op: "remove", path: "/loads/0/values/a" }], "Pull in First");
});

test("a refused value stays in its cell with the reason", async () => {
  const edit = vi.fn().mockRejectedValue(new Error("'soon' is not a number with a unit."));
  render(<Board study={STUDY} amounts={AMOUNTS} onEdit={edit} />);
  await userEvent.click(screen.getByRole("button", { name: "Pull, Second: held" }));
  await userEvent.type(screen.getByLabelText("Pull in Second"), "soon{Enter}");
  expect((await screen.findByRole("alert")).textContent).toContain("not a number with a unit");
});

test("names select, and the keys move the play head over a run", async () => {
  const onHead = vi.fn();
  const history = [0.5, 1].map((time) => ({
    step: 0,
    time,
    values: { pull: 500 * time },
    carriers: [],
  })) as unknown as Summary[];
  render(<Board study={STUDY} amounts={AMOUNTS} results={{ history, head: 1, onHead }} />);
  await userEvent.click(screen.getByRole("button", { name: "Pull" }));
  expect(useSelection.getState().selected).toEqual({ kind: "load", id: "pull" });
  screen.getByRole("slider", { name: "Play head" }).focus();
  await userEvent.keyboard("{ArrowLeft}");
  expect(onHead).toHaveBeenLastCalledWith(0);
  expect(screen.getByText("500 N")).toBeTruthy();
});

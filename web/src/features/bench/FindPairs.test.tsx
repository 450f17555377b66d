import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { PatchStep, Suggestion } from "@/api/client";
import { enter, press } from "@/tests/controls";
import { STUDY, applied, objections } from "@/tests/document";
import { answering, studyAt, withCache } from "@/tests/server";

import { FindPairs } from "./FindPairs";

const found = (id: string, a: string, b: string, more: Partial<Suggestion> = {}): Suggestion => ({
  a: [a],
  b: [b],
  gap: 0,
  area: 120,
  cover: 0.5,
  pair: null,
  places: 1,
  is_left_out: false,
  new_pair: { id, name: id, a: [a], b: [b], law: { may_open: true, may_slide: "friction", mu: 0.15 } },
  ...more,
});

const FOUND = [
  found("one", "lug/top", "bolts#1/nut.bearing"),
  found("two", "bolts#2/nut.bearing", "lug/upper", { gap: 0.4 }),
  found("three", "lug/lower", "beam/back", { gap: -0.02 }),
  found("four", "lug/nose", "beam/front", { is_left_out: true }),
  found("five", "bolts/head.bearing", "lug/top", { pair: "seat" }),
];

let list: Suggestion[] | { status: number; body: unknown };
beforeEach(() => {
  list = FOUND;
});
afterEach(cleanup);

function open() {
  const asked = answering(() => (Array.isArray(list) ? { body: list } : list));
  const edit = vi.fn<(patch: PatchStep[], label: string) => Promise<unknown>>().mockResolvedValue(undefined);
  const [peek, close] = [vi.fn(), vi.fn()];
  const info = studyAt(3, STUDY);
  const { Wrapper } = withCache([info]);
  render(<FindPairs info={info} onEdit={edit} onPeek={peek} onClose={close} />, { wrapper: Wrapper });
  const after = () => applied(STUDY, edit.mock.calls.at(-1)?.[0] ?? []);
  return { asked, edit, peek, close, after };
}

const row = (key: string) => {
  const line = document.querySelector<HTMLElement>(`[data-found="${key}"]`);
  if (!line) throw new Error(`${key} is not in the list.`);
  return line;
};
const first = "lug/top | bolts#1/nut.bearing";

test("what is found reads as it starts, and becomes pairs one by one or all at once", async () => {
  const { edit, after, peek } = open();
  expect((await screen.findByText("touching")).closest("tr")).toBe(row(first));
  expect(screen.getByText(/0\.4\d* mm apart|400 µm apart/)).toBeTruthy();
  expect(screen.getByText(/20\.0 µm overlap/)).toBeTruthy();
  await userEvent.hover(row(first));
  expect(peek).toHaveBeenLastCalledWith({ a: ["lug/top"], b: ["bolts#1/nut.bearing"] });
  await userEvent.click(within(row(first)).getByRole("button", { name: "Make a pair" }));
  expect(after().pairs?.at(-1)).toMatchObject({ id: "one", a: ["lug/top"] });
  expect(objections(after())).toEqual([]);
  await press("Make all 3 pairs");
  expect(
    after()
      .pairs?.slice(-3)
      .map((p) => p.id),
  ).toEqual(["one", "two", "three"]);
  expect(edit).toHaveBeenLastCalledWith(expect.anything(), "Add 3 pairs");
});

test("marked findings are joined with the faces of one part on one side, however they were found", async () => {
  const { after } = open();
  await screen.findByText("touching");
  expect(screen.queryByRole("button", { name: /Join/ })).toBeNull();
  await userEvent.click(screen.getByLabelText(`Mark ${first}`));
  await userEvent.click(screen.getByLabelText("Mark bolts#2/nut.bearing | lug/upper"));
  await press("Join 2 into one pair");
  expect(after().pairs?.at(-1)).toMatchObject({
    a: ["lug/top", "lug/upper"],
    b: ["bolts#1/nut.bearing", "bolts#2/nut.bearing"],
  });
  expect(screen.queryByRole("button", { name: /Join/ })).toBeNull();
});

test("a finding is left out and taken back; what is in a pair already is named", async () => {
  const { after } = open();
  await screen.findByText("touching");
  await userEvent.click(within(row("lug/lower | beam/back")).getByRole("button", { name: "Leave out" }));
  expect(after().left_out?.at(-1)).toEqual({ a: ["lug/lower"], b: ["beam/back"] });
  expect(STUDY.left_out).toHaveLength(1);
  await press("Take it back");
  expect(after().left_out).toEqual([]);
  expect(screen.getByText(/^Seat: Bolts \/ head.bearing – Lug \/ top$/)).toBeTruthy();
});

test("another distance or angle asks again, and a refusal is told", async () => {
  const { asked } = open();
  await screen.findByText("touching");
  await enter("Search within", "0.2 in");
  await enter("Facing within", "10 deg");
  await waitFor(() => expect(asked.at(-1)?.query.get("angle")).toBe("10 deg"));
  expect(asked.at(-1)?.query.get("distance")).toBe("0.2 in");
  list = { status: 422, body: { code: "units", message: "'5' has no unit.", where: "distance", hint: "" } };
  await enter("Search within", "5");
  expect((await screen.findByRole("alert")).textContent).toBe("'5' has no unit.");
});

test("nothing near is said with what to do, and so is that all is done", async () => {
  list = [];
  open();
  expect(await screen.findByText(/No faces of different parts come within 1 mm/)).toBeTruthy();
  cleanup();
  list = FOUND.slice(3);
  const { close } = open();
  expect(await screen.findByText("Everything that touches is in a pair or left out.")).toBeTruthy();
  await userEvent.keyboard("{Escape}");
  expect(close).toHaveBeenCalled();
});

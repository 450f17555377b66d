import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import type { PairUse, PatchStep, Preflight, StudyDocument } from "@/api/client";
import { useSelection } from "@/features/selection";
import { STUDY, applied, objections } from "@/tests/document";
import { studyAt } from "@/tests/server";

import { PairTable } from "./PairTable";

afterEach(cleanup);

const COUNT = 200;
const pairs = Array.from({ length: COUNT }, (_, i) => ({
  ...STUDY.pairs![0]!,
  id: `pair-${i}`,
  name: `Pair ${i}`,
  law: { may_open: true, may_slide: "friction", mu: ((i * 37) % COUNT) / 1000 },
})) as PairUse[];
const MANY: StudyDocument = {
  ...STUDY,
  pairs,
  joints: [{ ...STUDY.joints![0]!, pieces: { ...STUDY.joints![0]!.pieces, pairs: { "pair-7": "heads" } } }],
};
const PREFLIGHT = {
  may_run: true,
  findings: [{ grade: "watch", code: "cover", text: "", where: "pairs/pair-3" }],
  pairs: [{ id: "pair-3", gap: 0.25, cover: 0.4, nodes: 9, size_a: 3 }],
  size: null,
} as unknown as Preflight;

function table() {
  const edit = vi.fn<(patch: PatchStep[], label: string) => Promise<unknown>>().mockResolvedValue(undefined);
  useSelection.setState({ selected: { kind: "study", id: "" } });
  render(
    <PairTable info={studyAt(1, MANY)} preflight={PREFLIGHT} onEdit={edit} onFind={() => {}} onClose={() => {}} />,
  );
  return edit;
}
const names = () => screen.getAllByRole("row").flatMap((row) => row.getAttribute("data-pair-row") ?? []);
const mark = (name: string, more: object = {}) => fireEvent.click(screen.getByLabelText(`Mark ${name}`), more);
const together = () => within(screen.getByRole("group", { name: "Set together" }));
const enter = (label: string, text: string) => {
  const field = together().getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
};

test("of two hundred pairs those that are seen are drawn, sorted, filtered, and selected everywhere", () => {
  table();
  expect(names().length).toBeLessThan(40);
  expect(names().slice(0, 2)).toEqual(["pair-0", "pair-1"]);
  fireEvent.click(screen.getByRole("columnheader", { name: "Law" }));
  expect(names()[0]).toBe("pair-0");
  fireEvent.click(screen.getByRole("columnheader", { name: /^Law/ }));
  // 37 i mod 200 is 199 where i is 27.
  expect(names()[0]).toBe("pair-27");
  fireEvent.change(screen.getByLabelText("Find among the pairs"), { target: { value: "shackle" } });
  expect(names()).toEqual(["pair-7"]);
  fireEvent.click(screen.getByText("Pair 7"));
  expect(useSelection.getState().selected).toEqual({ kind: "pair", id: "pair-7" });
  fireEvent.change(screen.getByLabelText("Find among the pairs"), { target: { value: "gap 0.25" } });
  expect(screen.getByText("40 % swap")).toBeTruthy();
});

test("fifty pairs are set in one edit, filled from the first, and their sides swapped", () => {
  const edit = table();
  const body = screen.getByRole("table").parentElement!;
  mark("Pair 0");
  fireEvent.scroll(body, { target: { scrollTop: 50 * 25 } });
  mark("Pair 49", { shiftKey: true });
  expect(together().getByText("50 pairs")).toBeTruthy();
  enter("µ", "0,3");
  expect(edit).toHaveBeenCalledTimes(1);
  let after = applied(MANY, edit.mock.calls[0]?.[0] ?? []);
  expect(after.pairs?.filter((p) => p.law.mu === 0.3)).toHaveLength(50);
  expect(after.pairs?.slice(50)).toEqual(pairs.slice(50));
  expect(objections(after)).toEqual([]);
  for (const [label, value, name, wanted] of [
    ["Law", "tied", "law", { may_open: false, may_slide: "no" }],
    ["Fit", "closed-up", "fit", "closed-up"],
    ["Method", "penalty", "enforcement", { method: "penalty" }],
  ] as const) {
    fireEvent.change(together().getByLabelText(label), { target: { value } });
    after = applied(MANY, edit.mock.calls.at(-1)?.[0] ?? []);
    expect(after.pairs?.[49]?.[name]).toEqual(typeof wanted === "string" ? wanted : expect.objectContaining(wanted));
    expect(objections(after)).toEqual([]);
  }
  enter("Search", "2 mm");
  expect(applied(MANY, edit.mock.calls.at(-1)?.[0] ?? []).pairs?.[49]?.search).toBe("2 mm");
  fireEvent.click(together().getByText("Fill from the first"));
  after = applied(MANY, edit.mock.calls.at(-1)?.[0] ?? []);
  expect(after.pairs?.slice(0, 50).every((p) => p.law.mu === pairs[0]?.law.mu)).toBe(true);
  fireEvent.click(together().getByText("Swap sides"));
  after = applied(MANY, edit.mock.calls.at(-1)?.[0] ?? []);
  expect(after.pairs?.[3]?.a).toEqual(pairs[3]?.b);
  expect(edit).toHaveBeenCalledTimes(7);
});

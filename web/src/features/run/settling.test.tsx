import { cleanup, render, screen, within } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import { Spots } from "@/features/bench/Spots";
import { enter, press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { SETTLED } from "@/tests/settled";

import { SettleDialog } from "./SettleDialog";
import { SettledTable } from "./SettledTable";

afterEach(cleanup);

test("a study is settled within a share and up to a budget, and nothing else is asked for", async () => {
  const settle = vi.fn();
  render(<SettleDialog onSettle={settle} onClose={vi.fn()} />);
  await enter("Within (%)", "0");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Settle" }).disabled).toBe(true);
  expect(screen.getByText("Give a share between 0 and 100 %.")).toBeTruthy();
  await enter("Within (%)", "2,5");
  await enter("Unknowns at most", "80 000");
  await press("Settle");
  expect(settle).toHaveBeenCalledWith({ within: 0.025, budget: 80_000 });
});

test("what was found stands with the part, and is let go at once", async () => {
  const edit = vi.fn(() => Promise.resolve(undefined));
  const lug = (STUDY.parts ?? [])[0]!;
  const part = {
    ...lug,
    mesh: {
      ...lug.mesh,
      found: [
        [0, 0, 0, 1.5],
        [1, 0, 0, 2],
      ] as [number, number, number, number][],
    },
  };
  render(<Spots part={part} path="/parts/0" onEdit={edit} />);
  expect(screen.getByText(/2 finer points found by settling, down to 1.50 mm/)).toBeTruthy();
  await press("Let them go");
  expect(edit).toHaveBeenCalledWith(
    [expect.objectContaining({ path: "/parts/0/mesh/found", value: [] })],
    expect.anything(),
  );
});

test("every measure stands with its value on each mesh, where it goes to and whether it is settled", () => {
  const view = render(<SettledTable settled={SETTLED} active={false} />);
  expect(screen.getByText(/more than the budget of 200000/)).toBeTruthy();
  const [seat, lug] = screen.getAllByRole("row").slice(1) as [HTMLElement, HTMLElement];
  const cells = (row: HTMLElement) =>
    within(row)
      .getAllByRole("cell")
      .map((c) => c.textContent);
  expect(cells(seat)).toEqual([
    "Seat, peak pressure MPa",
    "80.0",
    "81.3",
    "81.7 (80.4 to 82.9)",
    "settled Changed by 1.5% on the last mesh.",
  ]);
  expect(cells(lug).slice(3)).toEqual([
    "≥ 0.600",
    "singular Grows with every finer mesh: a sharp inner corner (give it a radius).",
  ]);
  view.rerender(<SettledTable settled={{ ...SETTLED, measures: [] }} active />);
  expect(screen.getByText("Mesh 2 is being solved.")).toBeTruthy();
});

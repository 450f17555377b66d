import { cleanup, render, screen, within } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import { enter, press } from "@/tests/controls";
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

import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import type { HandCheck, Ledger } from "@/api/client";
import { Reckonings } from "@/features/Reckonings";
import { STUDY } from "@/tests/document";

import { checksOf } from "./handChecks";
import { LedgerPanel } from "./LedgerPanel";

afterEach(cleanup);

const hertz = (difference: number, met: boolean | null): HandCheck => ({
  kind: "pair",
  id: "seat",
  title: "Seat: contact along a line",
  holds: met !== false,
  values: [
    {
      name: "Peak pressure",
      quantity: "stress",
      hand: 100,
      computed: 100 * (1 + difference),
      difference,
      sense: "same",
      band: null,
      source: "Hertz 1882",
    },
    {
      name: "Proof load",
      quantity: "force",
      hand: 91_000,
      computed: 45_500,
      difference: 0.5,
      sense: "below",
      band: null,
      source: "ISO 898-1",
    },
    { name: "Its depth", quantity: "length", hand: 0.165, computed: null, difference: null, sense: "same", source: "" },
  ],
  conditions: [
    { text: "No metal has yielded", met },
    { text: "It bears evenly", met: null },
  ],
});

test("values by hand stand beside the computed ones with what they rest on", () => {
  render(<Reckonings checks={[hertz(-0.079, true)]} />);
  const rows = screen.getAllByRole("row").map((r) => r.textContent);
  expect(rows.slice(1)).toEqual([
    "Peak pressure100 MPa92.1 MPa−7.9 %",
    "Proof load91.0 kN45.5 kN50 % of it",
    "Its depth0.165 mm–",
  ]);
  expect(screen.getByText("No metal has yielded").textContent).toContain(": met");
  expect(screen.getByText("It bears evenly").textContent).toContain(": cannot be told");
});

test("a difference is no alarm where the formula does not hold", () => {
  const tone = (check: HandCheck) => {
    cleanup();
    render(<Reckonings checks={[check]} />);
    return screen.getByText(/^[+−][\d.]+ %$/).className;
  };
  expect(tone(hertz(0.3, true))).toContain("text-copper");
  expect(tone(hertz(0.3, false))).toContain("text-quiet");
  expect(tone(hertz(0.05, true))).toContain("text-verdigris");
});

test("a row of the ledger tells its check in a line, and the pair shows it whole", () => {
  const row = { id: "seat", name: "Seat", kind: "pair" as const };
  const ledger: Ledger = { increment: 0, closing_error: 0, remarks: [], rows: [row] };
  const shown = { kind: "pair" as const, pair: "seat", field: "pressure" as const };
  render(<LedgerPanel ledger={ledger} checks={[hertz(0.3, false)]} shown={shown} onShow={vi.fn()} />);
  expect(screen.getByText(/^By hand: peak pressure/).textContent).toBe(
    "By hand: peak pressure 100 MPa, +30 %, but not all it rests on is met",
  );
  const others = [
    hertz(0, true),
    { ...hertz(0, true), id: "other" },
    { ...hertz(0, true), kind: "joint" as const, id: "shackle" },
  ];
  const named = (found: HandCheck[]) => found.map((c) => `${c.kind} ${c.id}`);
  expect(named(checksOf(STUDY, others, shown))).toContain("pair seat");
  expect(named(checksOf(STUDY, others, shown))).not.toContain("pair other");
});

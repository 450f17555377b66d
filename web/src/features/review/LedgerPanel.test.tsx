import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";

import type { Ledger, LedgerCell } from "@/api/client";

import { SETTLED } from "@/tests/settled";

import { LedgerPanel } from "./LedgerPanel";

afterEach(cleanup);

const cell = (value: number | null, unit: string, grade: "good" | "watch" | "bad" | "none", verdict: string) => ({
  value,
  unit,
  grade,
  verdict,
  trend: [0, value],
});

const LEDGER: Ledger = {
  increment: 1,
  closing_error: 1e-12,
  remarks: [
    { grade: "bad", row: "seat", text: "Seat slides as a whole." },
    {
      grade: "bad",
      row: "lug",
      text: "Lug meets the stop.",
      remedies: [{ does: "Make a pair of them", edit: [{ op: "add", path: "/pairs/-", value: { id: "stop" } }] }],
    },
  ],
  rows: [
    {
      id: "seat",
      name: "Seat",
      kind: "pair",
      pressure: cell(81.25, "MPa", "good", "Stays shut."),
      penetration: cell(1e-12, "µm", "good", "Surfaces do not cross."),
      sliding: cell(9.7, "µm", "bad", "Slides as a whole."),
      yielding: cell(0.29, "of yield", "good", "Stays below yield."),
      shares: [0.25, 0.5, 0.25],
    },
    { id: "lug", name: "Lug", kind: "part", yielding: cell(null, "of yield", "none", "No yield stress given.") },
  ],
};

test("a cell shows its value and verdict, and puts its field on the stage", async () => {
  const show = vi.fn();
  const mend = vi.fn().mockResolvedValue(undefined);
  const shown = { kind: "pair", pair: "seat", field: "pressure" } as const;
  render(<LedgerPanel ledger={LEDGER} shown={shown} onShow={show} onMend={mend} />);
  expect(screen.getByText("Seat slides as a whole.")).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: "Make a pair of them" }));
  expect(mend).toHaveBeenCalledWith([{ op: "add", path: "/pairs/-", value: { id: "stop" } }], "Make a pair of them");
  const sliding = screen.getByRole("button", { name: "Seat, Sliding: 9.70 µm. Slides as a whole." });
  expect(sliding.dataset.grade).toBe("bad");
  await userEvent.click(sliding);
  expect(show).toHaveBeenLastCalledWith({ kind: "pair", pair: "seat", field: "sliding" });
  await userEvent.click(screen.getByRole("button", { name: /25 % open, 50 % sliding, 25 % sticking/ }));
  expect(show).toHaveBeenLastCalledWith({ kind: "pair", pair: "seat", field: "status" });
  expect(screen.getByRole("button", { name: /^Seat, Pressure/ }).getAttribute("aria-pressed")).toBe("true");
});

test("a cell of a settled study shows its course over the meshes", () => {
  render(
    <LedgerPanel
      ledger={LEDGER}
      settled={SETTLED}
      shown={{ kind: "pair", pair: "seat", field: "gap" }}
      onShow={vi.fn()}
    />,
  );
  const course = screen.getByRole("img", {
    hidden: true,
    name: /^Seat, peak pressure, on 2 meshes: 80.0, 81.3 MPa; goes to 81.7/,
  });
  expect(course.querySelectorAll("circle")).toHaveLength(2);
  expect(screen.getByRole("button", { name: /^Seat, Pressure/ }).title).toContain("on 2 meshes");
  expect(screen.getByRole("button", { name: /^Seat, Sliding/ }).title).not.toContain("meshes");
});

test("rounding is no value, and a value that is not known is a dash", () => {
  render(
    <LedgerPanel ledger={LEDGER} shown={{ kind: "part", part: undefined, field: "von_mises" }} onShow={vi.fn()} />,
  );
  expect(screen.getByRole("button", { name: /^Seat, Penetr/ }).textContent).toContain("0");
  expect(screen.getByRole("button", { name: /^Lug, Yield: none/ }).textContent).toContain("–");
});

test("a value stands with its band, and with no tick where it cannot be told", () => {
  const [row] = LEDGER.rows;
  const told: [LedgerCell["band"], string][] = [
    [[42.5, 119], "42.5–119"],
    [[80, null], "≥ 80.0"],
    [[81, 81.5], ""],
    [null, ""],
  ];
  for (const [band, text] of told) {
    const pressure = { ...row!.pressure!, band, grade: "unsure" as const, verdict: "Cannot tell its peak." };
    render(
      <LedgerPanel
        ledger={{ ...LEDGER, rows: [{ ...row!, pressure }] }}
        shown={{ kind: "pair", pair: "seat", field: "gap" }}
        onShow={vi.fn()}
      />,
    );
    const name = `Seat, Pressure: 81.3 MPa${text && `, ${text}`}. Cannot tell its peak.`;
    const shown = screen.getByRole("button", { name });
    expect([shown.dataset.grade, shown.textContent?.includes("✓"), shown.textContent?.endsWith("?")]).toEqual([
      "unsure",
      false,
      true,
    ]);
    cleanup();
  }
});

test("a long ledger is narrowed by words, a short one is not offered that", async () => {
  const many = {
    ...LEDGER,
    rows: Array.from({ length: 12 }, (_, i) => ({ ...LEDGER.rows[1]!, id: `l${i}`, name: `Lug ${i}` })),
  };
  const { rerender } = render(
    <LedgerPanel ledger={many} shown={{ kind: "pair", pair: "seat", field: "pressure" }} onShow={vi.fn()} />,
  );
  await userEvent.type(screen.getByRole("searchbox", { name: "Find in the ledger" }), "11 lug");
  expect(screen.getAllByRole("heading").map((h) => h.textContent)).toEqual(["Lug 11"]);
  rerender(<LedgerPanel ledger={LEDGER} shown={{ kind: "pair", pair: "seat", field: "pressure" }} onShow={vi.fn()} />);
  expect(screen.queryByRole("searchbox")).toBeNull();
  expect(screen.getAllByRole("heading").map((h) => h.textContent)).toEqual(["Seat", "Lug"]);
});

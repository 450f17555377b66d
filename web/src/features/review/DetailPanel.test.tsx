import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";

import type { LedgerRow } from "@/api/client";
import type { Sight } from "@/features/selection";
import type { Mirrors } from "@/scene/mirrors";
import { choose, press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { SUMMARY } from "@/tests/runs";

import { DetailPanel } from "./DetailPanel";
import type { Shown } from "./fields";

afterEach(cleanup);

const cell = (verdict: string) => ({ value: 1, unit: "MPa", grade: "good" as const, verdict, trend: [] });
const ROWS = [
  { id: "seat", name: "Seat", kind: "pair", pressure: cell("Stays shut."), sliding: cell("Slides as a whole.") },
  { id: "lug", name: "Lug", kind: "part", yielding: cell("Stays below yield.") },
] as LedgerRow[];

/** The value that stands beside a label. */
const beside = (label: string) => screen.getAllByText(label).map((l) => l.parentElement?.lastElementChild?.textContent);
const seen: Record<string, Sight>[] = [];
const show = (shown: Shown, sight: Record<string, Sight> = {}, mirrors: Mirrors = [false, false, false]) =>
  render(
    <DetailPanel
      study={STUDY}
      now={SUMMARY}
      shown={shown}
      rows={ROWS}
      mirrors={mirrors}
      sight={sight}
      onSight={(next) => seen.push(next)}
    />,
  );

test("a part is hidden, seen through, and all are shown again", async () => {
  show({ kind: "part", part: "lug", field: "von_mises" }, { beam: "ghost" });
  await press("Hide it");
  await press("See through it");
  await press("Show all parts");
  expect(seen).toEqual([{ beam: "ghost", lug: "hidden" }, { beam: "ghost", lug: "ghost" }, {}]);
});

test("a pair reads with units, shares and its verdicts", () => {
  show({ kind: "pair", pair: "seat", field: "pressure" });
  expect(beside("Force across")).toEqual(["40.0 kN"]);
  expect(beside("Widest gap")).toEqual(["12.0 µm"]);
  expect(beside("Deepest penetration")).toEqual(["0 mm"]);
  expect(beside("Open · sliding · sticking")).toEqual(["25 % · 50 % · 25 %"]);
  expect(beside("Heat of friction")).toEqual(["1.50 J"]);
  expect(screen.getByText("Slides as a whole.")).toBeTruthy();
  expect(screen.queryByText("Stays below yield.")).toBeNull();
});

test("a part with copies reads the worst of them, and no other part's", () => {
  show({ kind: "part", part: "bolts", field: "von_mises" });
  expect(beside("Highest von Mises")).toEqual(["310 MPa"]);
  expect(beside("Safety")).toEqual(["1.15"]);
  expect(beside("Plastic strain")).toEqual(["0.200 %"]);
  cleanup();
  show({ kind: "part", part: "lug", field: "von_mises" });
  expect(beside("Highest von Mises")).toEqual(["178 MPa"]);
  expect(screen.queryByText("Plastic strain")).toBeNull();
  cleanup();
  // A part without a yield stress has no safety, and a beam its section forces.
  show({ kind: "part", part: "beam", field: "von_mises" });
  expect(screen.queryByText("Safety")).toBeNull();
  expect(beside("Bending moment")).toEqual(["45.0 N·m at 120 mm"]);
  expect(beside("Torsion")).toEqual(["500 N·mm"]);
  cleanup();
  show({ kind: "part", part: undefined, field: "von_mises" });
  expect(beside("Highest von Mises")).toEqual(["310 MPa"]);
  expect(beside("Safety")).toEqual(["1.15"]);
});

test("the balance names every carrier as the study does, and says which are inside", () => {
  show({ kind: "part", part: undefined, field: "von_mises" });
  // A fifth of a newton of 30 kN is told; what rounding leaves is not.
  expect(beside("Loads")).toEqual(["30.0, 0, 0.000200"]);
  expect(beside("Base")).toEqual(["-30.0, 0, 0", "0, 0, 0"]);
  expect(beside("Turn")).toEqual(["0.0100, 0, 0", "0, 0, 0"]);
  expect(beside("Floor")).toEqual(["2.00, 0, 0", "0, 0, 0"]);
  expect(beside("Soft spring (inside)")).toEqual(["0.500, 0, 0", "0, 0, 0"]);
  expect(beside("Hinge (inside)")).toEqual(["0.700, 0, 0", "0, 0, 0"]);
  expect(beside("inertia")).toEqual(["0.000200, 0, 0", "0, 0, 0"]);
  expect(beside("Closes to")).toEqual(["1e-12 of 30.0 kN"]);
  expect(beside("Worst part left with")).toEqual(["1e-8 N"]);
  expect([beside("Bolt 1"), beside("Bolt 2")]).toEqual([["40.5 kN"], ["39.5 kN"]]);
});

test("what acts on a pair is told about an axis too, and with its mirror images", async () => {
  show({ kind: "pair", pair: "seat", field: "pressure" }, {}, [true, false, false]);
  const rows = (start: string) => screen.getAllByText((t) => t.startsWith(start)).map((l) => l.textContent);
  expect(rows("On side A")).toEqual(["On side A x, y, z (kN)"]);
  expect(rows("On the whole")).toEqual(["On the whole x, y, z (kN)"]);
  await choose("Axis", "axis along y");
  expect(rows("On side A")).toEqual(["On side A radial, hoop, axial (kN)"]);
});

import type { Settled } from "@/api/client";

const on = (value: number, size: number) => ({ value, size, band: [value * 0.9, value * 1.1] as [number, number] });

/** What two meshes of the study of `document.ts` gave. */
export const SETTLED: Settled = {
  within: 0.05,
  budget: 200_000,
  planned: 2,
  reach: {},
  ended: "The next mesh would have 250000 unknowns, more than the budget of 200000.",
  meshes: [
    { unknowns: 9000, elements: 2000, seconds: 2 },
    { unknowns: 40_000, elements: 11_000, seconds: 8 },
  ],
  measures: [
    {
      row: "seat",
      column: "pressure",
      step: 0,
      name: "Seat, peak pressure",
      unit: "MPa",
      values: [on(80, 4), on(81.25, 2)],
      state: "settled",
      limit: 81.7,
      band: [80.4, 82.9],
      order: null,
      told: "Changed by 1.5% on the last mesh.",
    },
    {
      row: "lug",
      column: "yielding",
      step: 0,
      name: "Lug, use of strength",
      unit: "of yield",
      values: [on(0.4, 4), on(0.6, 2)],
      state: "singular",
      limit: null,
      band: [0.6, null],
      order: null,
      told: "Grows with every finer mesh: a sharp inner corner (give it a radius).",
    },
  ],
  found: { lug: [[0, 0, 0, 1.5]] },
};

import { create } from "zustand";
import { persist } from "zustand/middleware";

import { figure } from "@/ui/figure";

import { type Quantity, vocabulary } from "./vocabulary";

type Store = {
  /** The unit system that each quantity is read in, where it is not the first. */
  chosen: Partial<Record<Quantity, string>>;
  choose: (chosen: Partial<Record<Quantity, string>>) => void;
  /** Whether the choice is on the screen. */
  isAsked: boolean;
  ask: (isAsked: boolean) => void;
};

/** In which units values are read; kept in the browser. Entries are kept as they are written. */
export const useUnits = create<Store>()(
  persist(
    (set) => ({
      chosen: {},
      choose: (chosen) => set({ chosen }),
      isAsked: false,
      ask: (isAsked) => set({ isAsked }),
    }),
    { name: "ulmek-units", partialize: ({ chosen }) => ({ chosen }) },
  ),
);

const standard = () => vocabulary().systems[0]?.units ?? {};

export const quantities = () => Object.keys(standard()) as Quantity[];

/** The units that a quantity is read in, the largest first. */
export function unitsOf(quantity: Quantity) {
  const system = useUnits.getState().chosen[quantity];
  const found = vocabulary().systems.find((s) => s.name === system) ?? vocabulary().systems[0];
  return found?.units[quantity] ?? [];
}

/** The unit that a quantity is read in first of all, and what internal values are multiplied by for it. */
export const spoken = (quantity: Quantity) => unitsOf(quantity)[0] ?? { unit: "", factor: 1 };

/** What is nothing but rounding, in internal units. */
const NOTHING: Partial<Record<Quantity, number>> = { force: 1e-6, moment: 1e-6 };

/** An internal value in the unit that suits its size. */
export function say(value: number, quantity: Quantity, digits = 3): string {
  const units = unitsOf(quantity);
  const fits = units.find(({ factor, least }) => Math.abs(value * factor) >= least) ?? units.at(-1);
  if (!fits || Math.abs(value) < (NOTHING[quantity] ?? 1e-9)) return `0 ${units[0]?.unit ?? ""}`;
  return `${figure(value * fits.factor, digits)} ${fits.unit}`;
}

export const force = (newton: number) => say(newton, "force");
export const moment = (nmm: number) => say(nmm, "moment");
export const length = (mm: number, digits = 3) => say(mm, "length", digits);
export const area = (mm2: number) => say(mm2, "area");
export const stress = (mpa: number) => say(mpa, "stress");

/** What stands for a unit of the server's texts and tables: the chosen one, and the factor to it. */
export function standsFor(unit: string): { unit: string; factor: number } {
  for (const [quantity, units] of Object.entries(standard())) {
    const at = units.findIndex((u) => u.unit === unit);
    const own = units[at];
    if (!own) continue;
    const chosen = unitsOf(quantity as Quantity);
    const wanted = chosen[at] ?? chosen.at(-1) ?? own;
    return { unit: wanted.unit, factor: wanted.factor / own.factor };
  }
  return { unit, factor: 1 };
}

const FIGURE =
  /(?<![\w.])([-−]?\d+(?:\.\d+)?(?:e[-+]?\d+)?) (mm|µm|kN|N·mm|N·m|N\/mm|N|MPa|mm²|kg\/m³|kg|m\/s²)(?![\w·/²³⁻])/g;

/** A sentence of the server with its figures in the chosen units. */
export function inChosenUnits(sentence: string): string {
  return sentence.replace(FIGURE, (all, number: string, unit: string) => {
    const to = standsFor(unit);
    return to.unit === unit ? all : `${figure(Number(number.replace("−", "-")) * to.factor)} ${to.unit}`;
  });
}

/** A usual value, written in the chosen unit: what a new item begins with. */
export const usual = inChosenUnits;

/** Whether an entry is a number with or without a unit, and no expression of others. */
export const isPlain = (entry: string) => /^\s*[-+]?[\d.]+(e[-+]?\d+)?\s*[a-zµ°]*\s*$/i.test(entry);

/** The moment (N·mm) of a force (N) and its moment about the origin, about another point (mm). */
export function momentAbout(
  { force: f, moment: m }: { force: readonly number[]; moment: readonly number[] },
  about: readonly number[],
): [number, number, number] {
  const arm = (i: number, j: number) => (about[i] ?? 0) * (f[j] ?? 0) - (about[j] ?? 0) * (f[i] ?? 0);
  return [(m[0] ?? 0) - arm(1, 2), (m[1] ?? 0) - arm(2, 0), (m[2] ?? 0) - arm(0, 1)];
}

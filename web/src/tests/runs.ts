import type { Carrier, RunInfo, Summary } from "@/api/client";

/** A run as the list of runs tells of it. */
export const runOf = (id: number, status: RunInfo["status"], more: Partial<RunInfo> = {}): RunInfo => ({
  id,
  study_id: 1,
  revision: 1,
  status,
  increments: 0,
  may_resume: false,
  name: "",
  note: "",
  variant: "",
  message: "",
  where: "",
  hint: "",
  pid: null,
  created: "2026-01-01T00:00:00Z",
  started: null,
  ended: null,
  ...more,
});

const carrier = (kind: Carrier["kind"], name: string, x: number, more: Partial<Carrier> = {}): Carrier => ({
  kind,
  name,
  force: [x, 0, 0],
  moment: [0, 0, 0],
  is_outside: true,
  about: [0, 0, 0],
  ...more,
});

const part = (stress: number, safety: number | null) => ({
  max_von_mises: stress,
  max_displacement: 0.05,
  max_plastic_strain: stress > 300 ? 0.002 : 0,
  stress_error: 12,
  yield_share: stress / 355,
  safety,
});

/** What an increment of the study of `document.ts` comes to. */
export const SUMMARY = {
  step: 0,
  number: 1,
  time: 1,
  iterations: 5,
  values: { pull: 30_000 },
  pairs: {
    seat: {
      normal_force: 40_000,
      friction_force: 1200,
      peak_pressure: 81.25,
      max_gap: 0.012,
      max_penetration: 0,
      max_sliding: 0.0097,
      share_open: 0.25,
      share_sliding: 0.5,
      share_sticking: 0.25,
      dissipated: 1500,
      as_one: 0,
      force: [0, 0, 40_000],
      moment: [0, 2000, 0],
      about: [10, 0, 5],
      max_plastic_strain: 0,
    },
  },
  parts: {
    lug: part(178, 1.99),
    "bolts#1": part(310, 1.15),
    "bolts#2": part(290, 1.22),
    beam: {
      ...part(90, null),
      section_forces: { axial: 2500, shear: 300, bending: 45_000, bending_at: 120, torsion: 500 },
    },
  },
  bolts: { "bolts#1": { force: 40_500, shortening: 0.08 }, "bolts#2": { force: 39_500, shortening: 0.08 } },
  carriers: [
    carrier("support", "base", -30_000),
    carrier("motion", "turn", 10),
    carrier("wall", "floor", 2000),
    carrier("spring", "soft", 500, { is_outside: false }),
    carrier("link", "hinge", 700, { is_outside: false }),
    carrier("inertia", "inertia", 0.2),
  ],
  balance: { applied: [30_000, 0, 0.2], closing_error: 1.2e-12, scale: 30_000, parts: { lug: 3e-9, beam: 1e-8 } },
} as unknown as Summary;

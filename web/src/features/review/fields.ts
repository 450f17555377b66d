import type { SceneBlock } from "@/api/sceneBlock";

export type PairField = "pressure" | "frictional_stress" | "gap" | "penetration" | "sliding" | "status";
type Component = "xx" | "yy" | "zz" | "xy" | "yz" | "zx" | "radial" | "hoop" | "axial";
export type PartField =
  | "von_mises" | "plastic_strain" | "stress_error" | "displacement" | "displacement_x" | "displacement_y" | "displacement_z"
  | "principal_largest" | "principal_middle" | "principal_smallest" | `stress_${Component}`;

export type Shown =
  | { kind: "pair"; pair: string; field: PairField }
  | { kind: "part"; part: string | undefined; field: PartField };

type Meaning = { label: string; unit: string; factor: number; signed: boolean };

export const PAIR_FIELDS: Record<PairField, Meaning> = {
  pressure: { label: "Contact pressure", unit: "MPa", factor: 1, signed: false },
  frictional_stress: { label: "Frictional stress", unit: "MPa", factor: 1, signed: false },
  gap: { label: "Gap", unit: "µm", factor: 1000, signed: false },
  penetration: { label: "Penetration", unit: "µm", factor: 1000, signed: false },
  sliding: { label: "Sliding distance", unit: "µm", factor: 1000, signed: false },
  status: { label: "Status", unit: "", factor: 1, signed: false },
};

export const PART_FIELDS: Record<PartField, Meaning> = {
  von_mises: { label: "Von Mises stress", unit: "MPa", factor: 1, signed: false },
  plastic_strain: { label: "Plastic strain", unit: "%", factor: 100, signed: false },
  stress_error: { label: "Error of stress", unit: "MPa", factor: 1, signed: false },
  displacement: { label: "Displacement", unit: "mm", factor: 1, signed: false },
  displacement_x: { label: "Displacement x", unit: "mm", factor: 1, signed: true },
  displacement_y: { label: "Displacement y", unit: "mm", factor: 1, signed: true },
  displacement_z: { label: "Displacement z", unit: "mm", factor: 1, signed: true },
  principal_largest: { label: "Largest principal stress", unit: "MPa", factor: 1, signed: true },
  principal_middle: { label: "Middle principal stress", unit: "MPa", factor: 1, signed: true },
  principal_smallest: { label: "Smallest principal stress", unit: "MPa", factor: 1, signed: true },
  stress_radial: { label: "Radial stress, part's own axis", unit: "MPa", factor: 1, signed: true },
  stress_hoop: { label: "Hoop stress, part's own axis", unit: "MPa", factor: 1, signed: true },
  stress_axial: { label: "Axial stress, part's own axis", unit: "MPa", factor: 1, signed: true },
  stress_xx: { label: "Stress along x", unit: "MPa", factor: 1, signed: true },
  stress_yy: { label: "Stress along y", unit: "MPa", factor: 1, signed: true },
  stress_zz: { label: "Stress along z", unit: "MPa", factor: 1, signed: true },
  stress_xy: { label: "Shear xy", unit: "MPa", factor: 1, signed: true },
  stress_yz: { label: "Shear yz", unit: "MPa", factor: 1, signed: true },
  stress_zx: { label: "Shear zx", unit: "MPa", factor: 1, signed: true },
};

/** Cut values over all skin vertices into one array per body. */
export function perBody(block: SceneBlock, values: Float32Array, width = 1): Float32Array[] {
  let at = 0;
  return block.bodies.map((body) => {
    const count = (body.positions.length / 3) * width;
    at += count;
    return values.subarray(at - count, at);
  });
}

export const perBodyVector = (block: SceneBlock, values: Float32Array) => perBody(block, values, 3);

/** Smallest and largest value, limits that include zero; a signed field gets even limits. */
export function limitsOf(arrays: (Float32Array | undefined)[], signed: boolean): { low: number; high: number } {
  let low = 0;
  let high = 0;
  for (const values of arrays) {
    for (const v of values ?? []) {
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  if (!signed) return { low, high: high > low ? high : low + 1e-12 };
  const size = Math.max(-low, high, 1e-12);
  return { low: -size, high: size };
}

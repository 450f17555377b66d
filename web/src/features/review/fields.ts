import type { SceneBlock } from "@/api/sceneBlock";
import { type FieldInfo, vocabulary } from "@/api/vocabulary";

/** What is shown: a field of one pair, or of one part or all. Names of fields are those of the server's table. */
export type Shown =
  | { kind: "pair"; pair: string; field: string }
  | { kind: "part"; part: string | undefined; field: string; about?: number[] | undefined };

/** The axis that a field is about, where it is another than each part's own: a point (mm) and a direction. */
export const aboutOf = (shown: Shown): number[] | undefined =>
  shown.kind === "part" && meaningOf(shown).is_about_axis ? shown.about : undefined;

/** The part of an address that asks for what is shown of parts. */
export function fieldPath(shown: Shown & { kind: "part" }): string {
  const about = aboutOf(shown);
  return about ? `${shown.field}?${about.map((n) => `about=${n}`).join("&")}` : shown.field;
}

/** The fields that can be shown where something is shown. */
export const fieldsOf = (where: Shown["kind"]): FieldInfo[] => vocabulary().fields.filter((f) => f.where === where);

/** What a field means: its label, the unit it is spoken in, and whether values below zero mean something. */
export function meaningOf(shown: Shown): FieldInfo {
  const found = fieldsOf(shown.kind).find((f) => f.name === shown.field);
  if (!found) throw new Error(`The server has no field ${shown.field} of a ${shown.kind}.`);
  return found;
}

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

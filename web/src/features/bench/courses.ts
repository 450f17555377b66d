import type { LoadUse } from "@/api/client";

type Course = NonNullable<LoadUse["courses"]>[string];

/** The points of a course in one line: `0: 0 kN, 0.5: 20 kN`. */
export const courseText = (course: Course | undefined) => (course ?? []).map((p) => `${p.at}: ${p.value}`).join(", ");

/**
 * The course that a line says, or rows pasted from a sheet: a share of the step and a value with its unit. What
 * cannot be read stays as text, for the server to refuse with its place.
 */
export function courseOf(text: string): { at: number | string; value: string }[] {
  return text
    .split(/;|\n|,\s/)
    .map((row) => row.trim())
    .filter(Boolean)
    .map((row) => {
      const [, at = "", value = ""] = /^([^:\s]+)\s*[:\s]\s*(.*)$/.exec(row) ?? [];
      const share = Number(at.replace(/%$/, "").replace(",", ".")) / (at.endsWith("%") ? 100 : 1);
      return { at: at === "" || Number.isNaN(share) ? at || row : share, value };
    });
}

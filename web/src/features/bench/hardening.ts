import type { Material } from "@/api/client";

type Hardening = NonNullable<Material["hardening"]>;

/** A table of plastic strain and stress in one line: `0: 355 MPa, 0.05: 460 MPa`. */
export const tableText = (hardening: Hardening | null | undefined) =>
  (hardening?.table ?? []).map((row) => `${row.strain}: ${row.stress}`).join(", ");

/**
 * The table that a line, or rows pasted from a sheet, say: plastic strain and stress with its unit; nothing for an
 * empty line. What cannot be read stays as text, for the server to refuse with its place.
 */
export function hardeningOf(text: string, before: Hardening | null | undefined): object | null {
  const rows = text
    .split(/;|\n|,\s/)
    .map((row) => row.trim())
    .filter(Boolean);
  if (!rows.length) return null;
  const table = rows.map((row) => {
    const [, strain = "", stress = ""] = /^([^:\s]+)\s*[:\s]\s*(.*)$/.exec(row) ?? [];
    const value = Number(strain);
    return { strain: strain === "" || Number.isNaN(value) ? strain : value, stress };
  });
  return { kinematic_share: before?.kinematic_share ?? 0, table };
}

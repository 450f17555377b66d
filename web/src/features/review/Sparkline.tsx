import { COLOURS } from "@/ui/colours";
const STROKE = {
  good: COLOURS.verdigris,
  watch: COLOURS.copper,
  bad: COLOURS.vermilion,
  unsure: COLOURS.quiet,
  none: COLOURS.faint,
} as const;

/** The course of a value over the run, small. */
export function Sparkline({ values, grade }: { values: (number | null)[]; grade: keyof typeof STROKE }) {
  const known = values.map((v) => Math.abs(v ?? 0));
  const peak = Math.max(...known, 1e-12);
  const points = known
    .map((v, i) => `${known.length > 1 ? (i / (known.length - 1)) * 44 : 0},${12 - (v / peak) * 10}`)
    .join(" ");
  return (
    <svg width="46" height="14" aria-hidden>
      <polyline points={points} fill="none" stroke={STROKE[grade]} strokeWidth="1.5" />
    </svg>
  );
}

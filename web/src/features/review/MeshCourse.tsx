import type { SettledMeasure } from "@/api/client";
import { standsFor } from "@/api/units";
import { limitText } from "@/features/run/SettledTable";
import { COLOURS } from "@/ui/colours";
import { figure } from "@/ui/format";

const WIDE = 46;
const HIGH = 18;

/** A value on coarser and finer meshes, small: a dot for each mesh, and the band of what it goes to at the end. */
export function MeshCourse({ measure }: { measure: SettledMeasure }) {
  const values = measure.values.map((v) => v?.value ?? null);
  const [low, high] = [measure.band?.[0] ?? null, measure.band?.[1] ?? null];
  const known = [...values, low, high].flatMap((v) => (v === null ? [] : [v]));
  const [least, most] = [Math.min(...known), Math.max(...known)];
  const y = (v: number) => HIGH - 2.5 - ((v - least) / (most - least || 1)) * (HIGH - 5);
  const x = (i: number) => 3 + (i / Math.max(values.length, 1)) * (WIDE - 8);
  const end = WIDE - 4;
  return (
    <svg width={WIDE} height={HIGH} role="img" aria-label={courseText(measure)}>
      <title>{courseText(measure)}</title>
      {low !== null && (
        <line
          x1={end}
          x2={end}
          y1={y(low)}
          y2={high === null ? 0 : y(high)}
          stroke={measure.state === "settled" ? COLOURS.verdigris : COLOURS.copper}
          strokeWidth="2.5"
        />
      )}
      {values.map((v, i) => v !== null && <circle key={i} cx={x(i)} cy={y(v)} r="1.8" fill={COLOURS.ink} />)}
    </svg>
  );
}

/** The same in words. */
export function courseText(measure: SettledMeasure): string {
  const { unit, factor } = standsFor(measure.unit);
  const values = measure.values.map((v) => (v ? figure(v.value * factor) : "–")).join(", ");
  const limit = limitText(measure, factor);
  const order = measure.order == null ? "" : `, order ${figure(measure.order)}`;
  return `${measure.name}, on ${measure.values.length} meshes: ${values} ${unit}${limit && `; goes to ${limit}${order}`}. ${measure.told ?? ""}`.trim();
}

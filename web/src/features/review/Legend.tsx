import { standsFor } from "@/api/units";
import { RAMP, SIGNED_RAMP, cssGradient } from "@/scene/ramp";
import { figure } from "@/ui/format";
import { COLOURS } from "@/ui/colours";

/** Scale of the field on the stage. */
export function Legend({ low, high, unit, signed }: { low: number; high: number; unit: string; signed: boolean }) {
  const { unit: read, factor } = standsFor(unit);
  const middle = (low + high) / 2;
  return (
    <div className="pointer-events-none absolute bottom-3 left-4 w-64" data-testid="legend">
      <div
        className="h-3 rounded-sm border border-line"
        style={{ background: cssGradient(signed ? SIGNED_RAMP : RAMP) }}
      />
      <div className="flex justify-between text-[12.5px]">
        <span>{figure(low * factor)}</span>
        <span>{figure(middle * factor)}</span>
        <span>
          {figure(high * factor)} {read}
        </span>
      </div>
    </div>
  );
}

/** Patterns of contact status. */
export function StatusLegend() {
  const hatch = `repeating-linear-gradient(135deg, ${COLOURS.verdigris} 0 3px, ${COLOURS.verdigrisPale} 3px 7px)`;
  return (
    <div className="pointer-events-none absolute bottom-3 left-4 flex gap-4" data-testid="legend">
      {[
        ["open", COLOURS.paper],
        ["sticking", COLOURS.verdigris],
        ["sliding", hatch],
      ].map(([name, background]) => (
        <span key={name} className="flex items-center gap-1.5">
          <span className="h-4 w-7 rounded-sm border border-line" style={{ background }} />
          {name}
        </span>
      ))}
    </div>
  );
}

import { useRef } from "react";

import { ApiProblem } from "@/api/client";
import { standsFor } from "@/api/units";
import { ABOVE, BELOW, RAMP, SIGNED_RAMP, cssGradient, valueIn } from "@/scene/ramp";
import { COLOURS } from "@/ui/colours";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";

export type Range = { low: number; high: number };
type Props = Range & {
  unit: string;
  signed: boolean;
  /** Limits set by hand, which stay; none follow the data. */
  own?: Range | undefined;
  onOwn?: (own: Range | undefined) => void;
  /** Whether the colours run by powers of ten. */
  isLog?: boolean | undefined;
  onLog?: (isLog: boolean) => void;
  /** Whether there is nothing above rounding to be shown. */
  isQuiet?: boolean;
};

/** Scale of the field on the stage; its limits are typed, dragged, kept, or those of the data. */
export function Legend({ low, high, unit, signed, own, onOwn, isLog = false, onLog, isQuiet }: Props) {
  const { unit: read, factor } = standsFor(unit);
  const bar = useRef<HTMLDivElement>(null);
  const gripped = useRef<Range & { at: number; isHigh: boolean }>(undefined);
  const middle = valueIn({ low, high, isLog }, 0.5);

  const commit = (which: keyof Range) => (text: string) => {
    const value = Number(text.replace(/\s/g, "").replace(",", ".")) / factor;
    const next = { low, high, [which]: value };
    if (!text || !Number.isFinite(value))
      return Promise.reject(new ApiProblem("number", `“${text}” is no number.`, "", `Give one in ${read}.`));
    if (next.high <= next.low)
      return Promise.reject(new ApiProblem("order", "The lower limit must be below the upper one.", "", ""));
    onOwn?.(next);
    return Promise.resolve();
  };
  if (isQuiet)
    return (
      <p className="absolute bottom-3 left-4 text-[13px] text-quiet" data-testid="legend">
        Nothing here is larger than rounding ({figure(high * factor)} {read}).
      </p>
    );
  return (
    <div
      className="absolute bottom-2 left-3 w-[min(16.5rem,calc(100%-7.5rem))] rounded bg-stage/80 px-1 py-1"
      data-testid="legend"
    >
      <div
        ref={bar}
        title={onOwn && "Drag an end to set the limit there"}
        className={`flex h-3 overflow-hidden rounded-sm border border-line ${onOwn ? "cursor-ew-resize" : ""}`}
        onPointerDown={(e) => {
          const box = bar.current?.getBoundingClientRect();
          if (!box || !onOwn) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          gripped.current = { low, high, at: e.clientX, isHigh: e.clientX > box.left + box.width / 2 };
        }}
        onPointerMove={(e) => {
          const from = gripped.current;
          const width = bar.current?.clientWidth;
          if (!from || !width) return;
          const by = ((e.clientX - from.at) / width) * (from.high - from.low);
          const least = 0.02 * (from.high - from.low);
          onOwn?.(
            from.isHigh
              ? { low: from.low, high: Math.max(from.high + by, from.low + least) }
              : { low: Math.min(from.low + by, from.high - least), high: from.high },
          );
        }}
        onPointerUp={() => (gripped.current = undefined)}
      >
        {own && <span className="w-3" style={{ background: BELOW }} />}
        <span className="flex-1" style={{ background: cssGradient(signed ? SIGNED_RAMP : RAMP) }} />
        {own && <span className="w-3" style={{ background: ABOVE }} />}
      </div>
      <div className="flex items-start justify-between gap-1 text-[12.5px]">
        {onOwn ? (
          <span className="[&_input]:w-16 [&_input]:bg-transparent [&_input]:text-left">
            <Field label={`Lower limit (${read})`} hideLabel value={figure(low * factor)} onCommit={commit("low")} />
          </span>
        ) : (
          <span>{figure(low * factor)}</span>
        )}
        <span className="py-0.5">{figure(middle * factor)}</span>
        <span className="flex items-baseline gap-1 [&_input]:w-16 [&_input]:bg-transparent">
          {onOwn ? (
            <Field label={`Upper limit (${read})`} hideLabel value={figure(high * factor)} onCommit={commit("high")} />
          ) : (
            figure(high * factor)
          )}{" "}
          {read}
        </span>
      </div>
      {onOwn && (
        <div className="flex justify-between text-[12.5px]">
          <button
            type="button"
            aria-pressed={!!own}
            className={own ? "font-semibold text-verdigris" : "text-verdigris hover:underline"}
            onClick={() => onOwn({ low, high })}
          >
            {own ? "limits kept" : "keep limits"}
          </button>
          {own && (
            <button type="button" className="text-verdigris hover:underline" onClick={() => onOwn(undefined)}>
              limits of the data
            </button>
          )}
          {onLog && !signed && (
            <button
              type="button"
              aria-pressed={isLog}
              title="Colours by powers of ten: small values are told apart too"
              className={isLog ? "font-semibold text-verdigris" : "text-verdigris hover:underline"}
              onClick={() => onLog(!isLog)}
            >
              powers of ten
            </button>
          )}
        </div>
      )}
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

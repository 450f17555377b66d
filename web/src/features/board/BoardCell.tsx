import type { KeyboardEvent } from "react";

import type { CellShape, Lane } from "./boardModel";
import { COLOURS } from "@/ui/colours";

type Props = {
  lane: Lane;
  cell: CellShape;
  step: number;
  stepName: string;
  course?: { x: number; y: number }[] | undefined;
  onEdit?: (() => void) | undefined;
  /** Writes what was copied, dragged here or taken away (nothing). */
  onWrite?: ((text: string) => void) | undefined;
  onSelect: () => void;
};

/** What a cell is dragged as: its written value, and nothing else. */
const VALUE = "application/x-ulmek-value";
/** The value that was copied last, for where the clipboard may not be read. */
let copied: string | undefined;

const TONE = { Hold: COLOURS.ink, Tighten: COLOURS.copper, Load: COLOURS.ink, Pair: COLOURS.verdigris } as const;
const FILL = {
  Hold: COLOURS.shade,
  Tighten: COLOURS.copperPale,
  Load: COLOURS.shade,
  Pair: COLOURS.verdigrisPale,
} as const;
const HEIGHT = 22;
/** What is written stands out from a line behind it. */
const HALO = Array.from({ length: 4 }, () => `0 0 3px ${COLOURS.paper}`).join();

/** One cell: what is asked over the step, and over it the computed course. */
export function BoardCell({ lane, cell, step, stepName, course, onEdit, onWrite, onSelect }: Props) {
  // What goes to either side is drawn about the middle.
  const ends = lane.cells.flatMap((c) => [c.from, c.to]);
  const isTwoSided = Math.min(...ends) < 0 && Math.max(...ends) > 0;
  const y = (v: number) =>
    isTwoSided
      ? HEIGHT / 2 - Math.max(-1, Math.min(v, 1)) * (HEIGHT / 2 - 3)
      : HEIGHT - 2 - Math.min(Math.abs(v), 1) * (HEIGHT - 6);
  const floor = isTwoSided ? y(0) : HEIGHT;
  const inside = course?.filter((p) => p.x >= step - 1e-9 && p.x <= step + 1 + 1e-9) ?? [];
  const line = inside.map((p) => `${(p.x - step) * 100},${y(p.y)}`).join(" ");
  const tone = TONE[lane.kind];
  const written = lane.written?.[step];
  const onKeyDown = (event: KeyboardEvent) => {
    const withControl = event.ctrlKey || event.metaKey;
    const does: Record<string, (() => void) | false> = {
      c: withControl && written !== undefined && (() => (copied = written)),
      v: withControl && copied !== undefined && (() => onWrite?.(copied ?? "")),
      delete: () => onWrite?.(""),
      backspace: () => onWrite?.(""),
    };
    const act = onWrite && does[event.key.toLowerCase()];
    if (!act) return;
    event.preventDefault();
    act();
  };
  const label = `${lane.name}, ${stepName}: ${cell.text || (cell.style === "idle" ? "nothing" : "as before")}`;
  return (
    <button
      type="button"
      aria-label={label}
      title={onEdit ? "Click to change; copy, paste and clear by Ctrl C, Ctrl V and Del; drag to another cell" : label}
      onClick={onEdit ?? onSelect}
      onKeyDown={onKeyDown}
      draggable={!!onWrite && written !== undefined}
      onDragStart={(e) => written !== undefined && e.dataTransfer.setData(VALUE, written)}
      onDragOver={(e) => onWrite && e.dataTransfer.types.includes(VALUE) && e.preventDefault()}
      onDrop={(e) => onWrite?.(e.dataTransfer.getData(VALUE))}
      className="relative my-[2px] h-[22px] rounded-sm text-left hover:outline hover:outline-1 hover:outline-line"
    >
      <svg viewBox={`0 0 100 ${HEIGHT}`} preserveAspectRatio="none" className="absolute inset-0 h-full w-full">
        {cell.style === "idle" ? (
          <line
            x1="0"
            x2="100"
            y1={HEIGHT - 2}
            y2={HEIGHT - 2}
            stroke={COLOURS.line}
            vectorEffect="non-scaling-stroke"
          />
        ) : (
          <>
            {cell.style === "solid" && (
              <polygon points={`0,${floor} 0,${y(cell.from)} 100,${y(cell.to)} 100,${floor}`} fill={FILL[lane.kind]} />
            )}
            <line
              x1="0"
              y1={y(cell.from)}
              x2="100"
              y2={y(cell.to)}
              stroke={tone}
              strokeWidth={course ? 1 : 1.6}
              strokeOpacity={course ? 0.4 : 1}
              strokeDasharray={cell.style === "dashed" ? "5 4" : undefined}
              vectorEffect="non-scaling-stroke"
            />
          </>
        )}
        {line && (
          <polyline
            points={line}
            fill="none"
            stroke={COLOURS.ink}
            strokeWidth="1.8"
            vectorEffect="non-scaling-stroke"
          />
        )}
      </svg>
      <span
        className="absolute top-[3px] left-1.5 text-[12px] leading-4 whitespace-nowrap"
        style={isTwoSided ? { textShadow: HALO } : undefined}
      >
        {cell.text}
      </span>
    </button>
  );
}

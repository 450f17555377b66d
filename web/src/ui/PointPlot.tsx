import { useRef } from "react";

import { COLOURS } from "./colours";

export type PlotPoint = { x: number; y: number };
type Props = {
  label: string;
  /** What is drawn as a line, and what stands beside it as dots. */
  line: PlotPoint[];
  dots?: PlotPoint[];
  xLabel: string;
  yLabel: string;
  /** Points of the line that are dragged, by their number; they are where they are let go. */
  onMove?: (index: number, to: PlotPoint) => void;
  /** A double press where no point is. */
  onAdd?: (at: PlotPoint) => void;
  width?: number;
  height?: number;
};

const EDGE = { left: 58, right: 14, top: 10, bottom: 34 };
const REACH = 9;

/** A small plot of a line through points, which can be dragged, added to, and moved by the arrow keys. */
export function PointPlot({ label, line, dots = [], xLabel, yLabel, onMove, onAdd, width = 520, height = 240 }: Props) {
  const held = useRef<number>(undefined);
  const sheet = useRef<SVGSVGElement>(null);
  const all = [...line, ...dots];
  const [left, right] = range(all.map((p) => p.x));
  const [low, high] = range(all.map((p) => p.y));
  const inner = { width: width - EDGE.left - EDGE.right, height: height - EDGE.top - EDGE.bottom };
  const px = (x: number) => EDGE.left + ((x - left) / (right - left)) * inner.width;
  const py = (y: number) => EDGE.top + (1 - (y - low) / (high - low)) * inner.height;
  const at = (event: { clientX: number; clientY: number }): PlotPoint => {
    const box = sheet.current?.getBoundingClientRect() ?? { left: 0, top: 0, width, height };
    const [x, y] = [
      ((event.clientX - box.left) * width) / (box.width || width),
      ((event.clientY - box.top) * height) / (box.height || height),
    ];
    return {
      x: left + ((x - EDGE.left) / inner.width) * (right - left),
      y: low + (1 - (y - EDGE.top) / inner.height) * (high - low),
    };
  };
  const step = { x: (right - left) / 50, y: (high - low) / 50 };
  const KEYS: Record<string, PlotPoint> = {
    ArrowLeft: { x: -step.x, y: 0 },
    ArrowRight: { x: step.x, y: 0 },
    ArrowUp: { x: 0, y: step.y },
    ArrowDown: { x: 0, y: -step.y },
  };
  return (
    <svg
      ref={sheet}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label={label}
      className="w-full touch-none select-none"
      onPointerMove={(e) => held.current !== undefined && onMove?.(held.current, at(e))}
      onPointerUp={() => (held.current = undefined)}
      onDoubleClick={(e) => onAdd?.(at(e))}
    >
      {ticks(low, high).map((y) => (
        <g key={y}>
          <line x1={EDGE.left} x2={width - EDGE.right} y1={py(y)} y2={py(y)} stroke={COLOURS.grid} />
          <text x={EDGE.left - 6} y={py(y) + 4} textAnchor="end" fontSize="11.5" fill={COLOURS.quiet}>
            {short(y)}
          </text>
        </g>
      ))}
      {ticks(left, right).map((x) => (
        <text key={x} x={px(x)} y={height - 18} textAnchor="middle" fontSize="11.5" fill={COLOURS.quiet}>
          {short(x)}
        </text>
      ))}
      <text x={width - EDGE.right} y={height - 4} textAnchor="end" fontSize="11.5" fill={COLOURS.quiet}>
        {xLabel}
      </text>
      <text x={4} y={EDGE.top + 4} fontSize="11.5" fill={COLOURS.quiet}>
        {yLabel}
      </text>
      <polyline
        points={line.map((p) => `${px(p.x)},${py(p.y)}`).join(" ")}
        fill="none"
        stroke={COLOURS.verdigris}
        strokeWidth={2}
      />
      {dots.map((p, i) => (
        <circle key={i} cx={px(p.x)} cy={py(p.y)} r={2.5} fill={COLOURS.copper} />
      ))}
      {line.map((p, i) => (
        <circle
          key={i}
          cx={px(p.x)}
          cy={py(p.y)}
          r={onMove ? REACH / 2 + 1 : 3}
          fill={COLOURS.bare}
          stroke={COLOURS.verdigris}
          strokeWidth={2}
          {...(onMove && {
            role: "slider",
            tabIndex: 0,
            "aria-label": `Point ${i + 1}`,
            "aria-valuenow": p.y,
            "aria-valuetext": `${short(p.y)} at ${short(p.x)}`,
            className: "cursor-move",
            onPointerDown: (e: React.PointerEvent) => {
              held.current = i;
              e.currentTarget.parentElement?.setPointerCapture?.(e.pointerId);
            },
            onKeyDown: (e: React.KeyboardEvent) => {
              const by = KEYS[e.key];
              if (!by) return;
              e.preventDefault();
              onMove(i, { x: p.x + by.x, y: p.y + by.y });
            },
          })}
        />
      ))}
    </svg>
  );
}

/** What an axis spans: all values and zero, with a little room. */
function range(values: number[]): [number, number] {
  const [low, high] = [Math.min(0, ...values), Math.max(0, ...values)];
  if (low === high) return [low, low + 1];
  const room = 0.06 * (high - low);
  return [low < 0 ? low - room : 0, high > 0 ? high + room : 0];
}

/** About five round numbers between two. */
function ticks(low: number, high: number): number[] {
  const rough = (high - low) / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((m) => m * power >= rough) ?? 10);
  const first = Math.ceil(low / step);
  return Array.from({ length: Math.floor(high / step) - first + 1 }, (_, i) => (first + i) * step);
}

const short = (value: number) => String(Number(value.toPrecision(3)));

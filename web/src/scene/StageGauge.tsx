import { spoken } from "@/api/units";
import { figure } from "@/ui/format";

import type { Gauge } from "./Stage3D";

const NAMES = ["x", "y", "z"] as const;
/** Length of an axis and of the longest scale bar, in pixels. */
const ARM = 30;
const LONGEST = 110;

/** The round length (1, 2 or 5 times a power of ten, in mm) whose bar is the longest that fits. */
export function roundLength(pixelsPerMm: number, longest: number): number {
  const most = longest / pixelsPerMm;
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((n) => n * power).find((length) => length <= most) ?? power;
}

/** A length in mm as people say it: µm, mm or m. */
export function lengthWords(mm: number): string {
  if (mm < 0.1) return `${figure(1000 * mm, 1)} µm`;
  return mm < 1000 ? `${figure(mm, 1)} mm` : `${figure(mm / 1000, 1)} m`;
}

/** Which way the axes point, and how long things are where the view turns about. */
export function StageGauge({ gauge, isOverLegend = false }: { gauge: Gauge; isOverLegend?: boolean }) {
  const { unit, factor } = spoken("length");
  const round = roundLength(gauge.pixelsPerMm / factor, LONGEST);
  const bar = (round / factor) * gauge.pixelsPerMm;
  const words = unit === "mm" ? lengthWords(round) : `${figure(round, 1)} ${unit}`;
  if (!Number.isFinite(bar)) return null;
  // What points towards the eye is drawn over what points away.
  const order = [0, 1, 2].sort((a, b) => (gauge.axes[b]?.away ?? 0) - (gauge.axes[a]?.away ?? 0));
  return (
    <svg
      role="img"
      aria-label={`Axes of the study; the bar is ${words} long`}
      width={96 + bar}
      height="84"
      className={`pointer-events-none absolute left-3 text-ink ${isOverLegend ? "bottom-20" : "bottom-7"}`}
    >
      {order.map((i) => {
        const axis = gauge.axes[i];
        if (!axis) return null;
        const [x, y] = [42 + ARM * axis.x, 42 + ARM * axis.y];
        return (
          <g key={NAMES[i]} opacity={axis.away > 0.5 ? 0.45 : 1}>
            <line x1="42" y1="42" x2={x} y2={y} stroke="currentColor" strokeWidth="1.6" />
            <text
              x={42 + 1.3 * (x - 42)}
              y={42 + 1.3 * (y - 42)}
              className="fill-current text-[12px]"
              textAnchor="middle"
              dominantBaseline="middle"
            >
              {NAMES[i]}
            </text>
          </g>
        );
      })}
      <path d={`M88 66 v8 M88 70 h${bar} m0 -4 v8`} stroke="currentColor" fill="none" />
      <text x={88 + bar / 2} y="60" className="fill-current text-[12px]" textAnchor="middle">
        {words}
      </text>
    </svg>
  );
}

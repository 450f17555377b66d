import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";

import { COLOURS } from "./colours";
import { figure } from "./figure";

/** One line: its points in their order, which may turn back; `unit` decides whose axis it has. */
export type Line = {
  label: string;
  unit: string;
  x: number[];
  y: (number | null)[];
  colour: string;
  isFaint?: boolean;
  dots?: boolean;
};
type Props = {
  label: string;
  xLabel: string;
  lines: Line[];
  /** The point of each line that is marked. */
  at?: number;
  onAt?: (index: number) => void;
};

const FONT = "12px 'Source Sans 3 Variable', sans-serif";

/** Lines over each other, with an axis for each of two units; a click marks the nearest point of the first. */
export function CurvePlot({ label, xLabel, lines, at, onAt }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot>(undefined);
  const latest = useRef({ at, onAt, lines });
  latest.current = { at, onAt, lines };
  const units = [...new Set(lines.map((l) => l.unit))].slice(0, 2);
  const shape = JSON.stringify([xLabel, units, lines.map((l) => [l.label, l.unit, l.colour, l.isFaint, l.dots])]);

  useEffect(() => {
    const box = host.current;
    if (!box) return;
    const scaleOf = (unit: string) => (unit === units[0] ? "left" : "right");
    const axis = (scale: string, unit: string): uPlot.Axis => ({
      scale,
      side: scale === "left" ? 3 : 1,
      label: unit,
      labelSize: 18,
      labelFont: FONT,
      font: FONT,
      size: 56,
      stroke: COLOURS.quiet,
      grid: { show: scale === "left", stroke: COLOURS.grid, width: 1 },
      values: (_, ticks) => ticks.map((t) => figure(t)),
    });
    const made = new uPlot(
      {
        mode: 2,
        width: Math.max(box.clientWidth, 60),
        height: Math.max(box.clientHeight, 60),
        legend: { show: false },
        cursor: { drag: { x: false, y: false }, points: { show: false } },
        scales: Object.fromEntries([
          ["x", { time: false, range: spread(lines.flatMap((l) => l.x)) }],
          ...units.map((u) => {
            const values = () => latest.current.lines.filter((l) => l.unit === u).flatMap((l) => l.y);
            return [scaleOf(u), { range: () => spread([0, ...values()]) }];
          }),
        ]) as uPlot.Scales,
        axes: [
          {
            label: xLabel,
            labelSize: 18,
            labelFont: FONT,
            font: FONT,
            size: 26,
            stroke: COLOURS.quiet,
            grid: { stroke: COLOURS.grid, width: 1 },
            values: (_, ticks) => ticks.map((t) => figure(t)),
          },
          ...units.map((u) => axis(scaleOf(u), u)),
        ],
        series: [
          {},
          ...lines.map((l, i) => ({
            label: l.label,
            stroke: l.colour,
            facets: [
              { scale: "x", auto: true },
              { scale: scaleOf(l.unit), auto: true },
            ],
            paths: (u: uPlot) => {
              draw(u, latest.current.lines[i], scaleOf(l.unit), latest.current.at);
              return null;
            },
          })),
        ],
      },
      dataOf(latest.current.lines),
      box,
    );
    plot.current = made;
    const onClick = (event: MouseEvent) => {
      const first = latest.current.lines[0];
      if (!first || !latest.current.onAt) return;
      const area = made.over.getBoundingClientRect();
      const distances = first.x.map((x, i) =>
        Math.hypot(
          made.valToPos(x, "x") - (event.clientX - area.left),
          made.valToPos(first.y[i] ?? 0, scaleOf(first.unit)) - (event.clientY - area.top),
        ),
      );
      latest.current.onAt(distances.indexOf(Math.min(...distances)));
    };
    made.over.addEventListener("click", onClick);
    const watcher = new ResizeObserver(() => made.setSize({ width: box.clientWidth, height: box.clientHeight }));
    watcher.observe(box);
    return () => {
      watcher.disconnect();
      made.destroy();
    };
    // What is drawn of a shape follows by the next effect.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shape]);

  useEffect(() => {
    plot.current?.setData(dataOf(lines));
    const xs = spread(lines.flatMap((l) => l.x));
    plot.current?.setScale("x", { min: xs[0], max: xs[1] });
  }, [lines, at]);

  return <div ref={host} role="img" aria-label={label} className="h-full min-h-0 w-full overflow-hidden" />;
}

const dataOf = (lines: Line[]) => [null, ...lines.map((l) => [l.x, l.y])] as unknown as uPlot.AlignedData;

/** From the least to the largest, with a little room. */
function spread(values: (number | null)[]): [number, number] {
  const known = values.filter((v): v is number => v !== null && Number.isFinite(v));
  const [low, high] = [Math.min(...known), Math.max(...known)];
  if (!known.length || !(high > low)) return [(known[0] ?? 0) - 1, (known[0] ?? 0) + 1];
  return [low - 0.02 * (high - low), high + 0.04 * (high - low)];
}

/** A line through its points in their order, broken where there is no value, and a dot where it is marked. */
function draw(u: uPlot, line: Line | undefined, scale: string, at: number | undefined): void {
  if (!line) return;
  const { ctx } = u;
  const spot = (i: number) => [u.valToPos(line.x[i]!, "x", true), u.valToPos(line.y[i]!, scale, true)] as const;
  ctx.save();
  ctx.beginPath();
  ctx.rect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height);
  ctx.clip();
  ctx.strokeStyle = ctx.fillStyle = line.colour;
  ctx.lineWidth = 1.6 * devicePixelRatio;
  ctx.setLineDash(line.isFaint ? [4 * devicePixelRatio, 3 * devicePixelRatio] : []);
  ctx.beginPath();
  let isDown = false;
  line.y.forEach((y, i) => {
    if (y === null) isDown = false;
    else if (isDown) ctx.lineTo(...spot(i));
    else {
      ctx.moveTo(...spot(i));
      isDown = true;
    }
  });
  ctx.stroke();
  const dot = (i: number, size: number) => {
    if (line.y[i] == null) return;
    ctx.beginPath();
    ctx.arc(...spot(i), size * devicePixelRatio, 0, 2 * Math.PI);
    ctx.fill();
  };
  if (line.dots) line.y.forEach((_, i) => dot(i, 2));
  if (at !== undefined && !line.isFaint) {
    ctx.fillStyle = COLOURS.vermilion;
    dot(at, 4);
  }
  ctx.restore();
}

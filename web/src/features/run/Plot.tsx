import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { COLOURS } from "@/ui/colours";
import { raised } from "@/ui/format";

type Props = {
  title: string;
  x: number[];
  series: { label: string; values: (number | null)[]; colour: string; points?: boolean }[];
  log?: boolean;
  xLabel: string;
  yRange?: [number, number];
};

/** A small line plot that follows its data and its box. */
export function Plot({ title, x, series, log, xLabel, yRange }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | undefined>(undefined);
  const data = [x, ...series.map((s) => s.values)] as uPlot.AlignedData;
  const latest = useRef(data);
  latest.current = data;

  useEffect(() => {
    const box = host.current;
    if (!box) return;
    const made = new uPlot(
      {
        width: Math.max(box.clientWidth, 50),
        height: Math.max(box.clientHeight, 50),
        legend: { show: false },
        cursor: { y: false },
        scales: { x: { time: false }, y: log ? { distr: 3 } : yRange ? { range: yRange } : {} },
        axes: [
          {
            stroke: COLOURS.quiet,
            grid: { stroke: COLOURS.grid, width: 1 },
            label: xLabel,
            labelSize: 18,
            labelFont: "12px sans-serif",
            font: "12px sans-serif",
            size: 28,
          },
          {
            stroke: COLOURS.quiet,
            grid: { stroke: COLOURS.grid, width: 1, ...(log ? { filter: decades } : {}) },
            ticks: log ? { filter: decades } : {},
            ...(log ? { filter: decades } : {}),
            font: "12px sans-serif",
            size: 54,
            values: (_, ticks) =>
              ticks.map((t) => (t == null ? "" : log ? `10${raised(Math.round(Math.log10(t)))}` : String(t))),
          },
        ],
        series: [
          {},
          ...series.map((s) => ({
            label: s.label,
            stroke: s.colour,
            width: s.points ? 0 : 1.6,
            points: { show: true, size: s.points ? 6 : 4, fill: s.colour },
          })),
        ],
      },
      latest.current,
      box,
    );
    plot.current = made;
    const watcher = new ResizeObserver(() =>
      made.setSize({ width: Math.max(box.clientWidth, 50), height: Math.max(box.clientHeight, 50) }),
    );
    watcher.observe(box);
    return () => {
      watcher.disconnect();
      made.destroy();
    };
    // The plot is made once per set of series; data follow below.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [log, xLabel, series.length]);

  useEffect(() => plot.current?.setData(latest.current), [x, series]);

  return (
    <figure className="flex min-h-0 min-w-0 flex-1 flex-col" aria-label={title}>
      <figcaption className="px-2 pt-2 text-[12px] font-semibold tracking-wide text-quiet">{title}</figcaption>
      <div ref={host} className="min-h-0 flex-1" />
    </figure>
  );
}

/** Only every second power of ten is worth a line. */
const decades = (_: uPlot, splits: number[]) =>
  splits.map((v) => (Math.abs(Math.log10(v) / 2 - Math.round(Math.log10(v) / 2)) < 1e-6 ? v : null));

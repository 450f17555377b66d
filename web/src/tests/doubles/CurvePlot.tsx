import type { Line } from "@/ui/CurvePlot";

/** Stands for plots, which are drawn on a canvas: tells their lines, and a press goes to the place 0 of the axis. */
export const CurvePlot = ({ label, lines, onAt }: { label: string; lines: Line[]; onAt: (at: number) => void }) => (
  <button aria-label={label} onClick={() => onAt(0)}>
    {JSON.stringify(lines.map(({ x, y, unit, isFaint = false }) => ({ x, y, unit, isFaint })))}
  </button>
);

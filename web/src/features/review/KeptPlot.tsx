import { CurvePlot, type Line } from "@/ui/CurvePlot";

import { asCsv, saveText } from "./quantities";

type Props = {
  label: string;
  /** What all lines are drawn over: its name and unit. */
  way: { label: string; unit: string; values: number[] };
  lines: Omit<Line, "x">[];
  /** What the table is called when it is saved. */
  file: string;
  at?: number | undefined;
  onAt?: (at: number) => void;
};

/** Lines over one way, with what each is called, kept as a table. */
export function KeptPlot({ label, way, lines, file, at, onAt }: Props) {
  return (
    <>
      <div className="h-44">
        <CurvePlot
          label={label}
          xLabel={`${way.label} (${way.unit})`}
          lines={lines.map((l) => ({ ...l, x: way.values }))}
          {...(at !== undefined && { at })}
          {...(onAt && { onAt })}
        />
      </div>
      <p className="text-[12.5px] text-quiet">
        {lines
          .filter((l) => !l.isFaint)
          .map((l, i) => (
            <span key={l.label}>
              {i > 0 && " · "}
              <span style={{ color: l.colour }}>{l.label}</span>
            </span>
          ))}
      </p>
      <button
        type="button"
        className="text-[13px] text-verdigris hover:underline"
        onClick={() =>
          saveText(
            file,
            asCsv([
              { key: "way", ...way },
              ...lines.map((l) => ({ key: l.label, label: l.label, unit: l.unit, values: l.y.map((v) => v ?? NaN) })),
            ]),
          )
        }
      >
        Save as CSV
      </button>
    </>
  );
}

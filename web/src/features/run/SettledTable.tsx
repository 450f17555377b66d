import type { Settled, SettledMeasure } from "@/api/client";
import { inChosenUnits, standsFor } from "@/api/units";
import { duration, figure } from "@/ui/format";

const STATES = { settled: "settled", singular: "singular", open: "still changes" } as const;
const TONES = { settled: "text-verdigris", singular: "text-copper", open: "text-ink" } as const;

/** What is judged on every mesh so far, where it goes to, and whether it is settled. */
export function SettledTable({ settled, active }: { settled: Settled; active: boolean }) {
  const meshes = settled.meshes ?? [];
  const measures = settled.measures ?? [];
  const unknowns = (n: number) => n.toLocaleString("en").replaceAll(",", " ");
  return (
    <div className="min-h-0 overflow-auto bg-paper px-5 py-3" data-testid="settled">
      <p className="pb-2">
        <b>
          {active
            ? `Mesh ${settled.planned ?? meshes.length + 1} is being solved.`
            : inChosenUnits(settled.ended ?? "") || "Stopped."}
        </b>{" "}
        <span className="text-quiet">
          Within {figure(settled.within * 100)} %, up to {unknowns(settled.budget)} unknowns.
          {meshes.length > 0 && ` All meshes took ${duration(meshes.reduce((sum, m) => sum + m.seconds, 0))}.`}
        </span>
      </p>
      {measures.length === 0 ? (
        <p className="text-quiet">What is judged is told here when the first mesh is solved.</p>
      ) : (
        <table className="w-full text-left">
          <thead className="text-[12.5px] text-quiet">
            <tr className="border-b border-line align-bottom">
              <th className="py-1 pr-3 font-normal">What is judged</th>
              {meshes.map((mesh, i) => (
                <th key={i} className="px-2 py-1 text-right font-normal">
                  mesh {i + 1}
                  <br />
                  {unknowns(mesh.unknowns)} unknowns
                  <br />
                  {duration(mesh.seconds)}
                </th>
              ))}
              <th className="px-2 py-1 text-right font-normal">goes to</th>
              <th className="py-1 pl-3 font-normal" />
            </tr>
          </thead>
          <tbody>
            {measures.map((m) => (
              <MeasureRow key={`${m.row} ${m.column}`} measure={m} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function MeasureRow({ measure }: { measure: SettledMeasure }) {
  const { unit, factor } = standsFor(measure.unit);
  const state = measure.state ?? "open";
  return (
    <tr className="border-b border-line/60 align-top" data-state={state}>
      <td className="py-1 pr-3">
        {measure.name} <span className="text-[12px] text-quiet">{unit}</span>
      </td>
      {measure.values.map((v, i) => (
        <td key={i} className="px-2 py-1 text-right tabular-nums">
          {v ? figure(v.value * factor) : "–"}
        </td>
      ))}
      <td className="px-2 py-1 text-right whitespace-nowrap tabular-nums">{limitText(measure, factor)}</td>
      <td className="py-1 pl-3">
        <span className={`font-semibold ${TONES[state]}`}>{STATES[state]}</span>{" "}
        <span className="text-quiet">{inChosenUnits(measure.told ?? "")}</span>
      </td>
    </tr>
  );
}

/** Where a measure goes to on finer meshes, with its band. */
export function limitText({ limit, band }: SettledMeasure, factor: number): string {
  if (limit == null) return band && band[1] === null && band[0] != null ? `≥ ${figure(band[0] * factor)}` : "";
  if (band?.[0] == null || band[1] == null) return figure(limit * factor);
  return `${figure(limit * factor)} (${figure(band[0] * factor)} to ${figure(band[1] * factor)})`;
}

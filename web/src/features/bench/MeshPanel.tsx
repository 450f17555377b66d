import type { MeshReport, PatchStep, StudyDocument } from "@/api/client";
import { useSelection } from "@/features/selection";
import type { StageLabel } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";
import { tell } from "@/ui/notices";
import { type EditFn, number, put } from "./edits";

type Props = { study: StudyDocument; report: MeshReport | undefined; onEdit: EditFn; onClose: () => void };

const FINER = 0.8;
const POOR = 0.3;
const count = (n: number) => n.toLocaleString("en").replaceAll(",", " ");

/** How many elements there are and how well they are shaped, part by part; the worst are marked on the stage. */
export function MeshPanel({ study, report, onEdit, onClose }: Props) {
  const { selected, select } = useSelection();
  const over = report && report.elements > report.budget;
  return (
    <section
      aria-label="Mesh"
      className="absolute top-9 right-3 z-10 max-h-[92%] w-[300px] overflow-auto rounded-md border border-line bg-paper px-3 py-2 shadow-lg"
    >
      <header className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold tracking-wide text-quiet">Mesh</h2>
        <button type="button" aria-label="Close the mesh panel" className="text-quiet hover:text-ink" onClick={onClose}>
          ×
        </button>
      </header>
      {!report && <p className="text-quiet">Counting…</p>}
      {report && (
        <>
          <p className={over ? "text-vermilion" : ""}>
            {count(report.elements)} elements of {count(report.budget)}, {count(report.nodes)} nodes
          </p>
          <p className="pb-1 text-[12.5px] text-quiet">Shape from 0, folded, to 1, a cube; below {POOR} is poor.</p>
          {report.parts.map((p) => {
            const most = Math.max(...p.histogram);
            return (
              <button
                key={p.part}
                type="button"
                aria-pressed={selected.kind === "part" && selected.id === p.part}
                onClick={() => select({ kind: "part", id: p.part })}
                className="grid w-full grid-cols-[minmax(0,1fr)_92px] items-end gap-2 border-t border-line py-1 text-left aria-pressed:bg-verdigris-pale"
              >
                <span className="min-w-0">
                  <span className="block truncate">{p.name}</span>
                  <span className="block text-[12.5px] text-quiet">
                    {count(p.elements)}, worst {figure(p.least, 2)}, mean {figure(p.mean, 2)}
                  </span>
                </span>
                <svg viewBox="0 0 92 26" className="h-[26px] w-[92px]" role="img" aria-label={`Shapes of ${p.name}`}>
                  {p.histogram.map((n, i) => {
                    const height = n ? Math.max(1.5, (24 * n) / most) : 0;
                    return (
                      <rect
                        key={i}
                        x={9.2 * i}
                        y={25 - height}
                        width={8}
                        height={height}
                        className={i < 10 * POOR ? "fill-vermilion" : "fill-verdigris"}
                      />
                    );
                  })}
                  <line x1="0" x2="92" y1="25.5" y2="25.5" className="stroke-line" />
                </svg>
              </button>
            );
          })}
          <div className="flex items-center gap-2 border-t border-line pt-2">
            <span className="mr-auto">All sizes</span>
            <Button onClick={() => tell(onEdit(scaled(study, FINER), "A finer mesh all over"))}>Finer</Button>
            <Button onClick={() => tell(onEdit(scaled(study, 1 / FINER), "A coarser mesh all over"))}>Coarser</Button>
          </div>
          <Field
            label="Elements allowed"
            value={String(report.budget)}
            onCommit={(text) => onEdit([put("/element_budget", number(text))], "Elements allowed")}
          />
        </>
      )}
    </section>
  );
}

/** The size of every part times a factor, in the unit in which it is written. */
export function scaled(study: StudyDocument, factor: number): PatchStep[] {
  return (study.parts ?? []).flatMap((part, i) => {
    const match = /^\s*([\d.eE+-]+)\s*(.*)$/.exec(part.mesh.size);
    const value = Number(match?.[1]);
    return match && value > 0
      ? [put(`/parts/${i}/mesh/size`, `${Number((value * factor).toPrecision(2))} ${match[2] ?? ""}`.trim())]
      : [];
  });
}

/** Labels at the worst elements of the selected part, or of the part that has the worst of all. */
export function worstLabels(report: MeshReport | undefined, part: string | undefined): StageLabel[] {
  const own =
    report?.parts.find((p) => p.part === part) ?? [...(report?.parts ?? [])].sort((a, b) => a.least - b.least)[0];
  return (own?.worst ?? []).map((w, i) => ({ id: `worst-${i}`, at: w.at, text: figure(w.quality, 2), tone: "hold" }));
}

import { useState } from "react";

import type { LoadUse, StepUse } from "@/api/client";
import { useCourse } from "@/api/hooks";
import { spoken } from "@/api/units";
import { loadSort } from "@/api/vocabulary";
import { type PlotPoint, PointPlot } from "@/ui/PointPlot";
import { tell } from "@/ui/notices";
import { Refusal } from "@/ui/Refusal";

import { Dialogue } from "./Dialogue";
import { type EditFn, put } from "./edits";
import { SheetInput } from "./SheetInput";

type Props = {
  load: LoadUse;
  path: string;
  step: StepUse;
  /** Points of the step as it is, in the unit that values are spoken in: from its start to its end. */
  points: PlotPoint[];
  onEdit: EditFn;
  onClose: () => void;
};

/** Decimals that are kept of what is dragged. */
const rounded = (value: number) => Number(value.toPrecision(4));

/** How a load runs within a step: points dragged, typed, pasted from a sheet, or read from a file. */
export function CourseDialog({ load, path, step, points: begin, onEdit, onClose }: Props) {
  const [points, setPoints] = useState(begin);
  const course = useCourse(load.kind);
  const { unit } = spoken(loadSort(load.kind).quantity);
  const last = points.length - 1;
  const change = (index: number, to: PlotPoint) =>
    setPoints((now) =>
      now.map((p, i) => {
        if (i !== index) return p;
        // The ends of the step stay there; others stay between their neighbours.
        const x = i === 0 ? 0 : i === last ? 1 : Math.min(now[i + 1]?.x ?? 1, Math.max(now[i - 1]?.x ?? 0, to.x));
        return { x: rounded(x), y: rounded(to.y) };
      }),
    );
  const add = (at: PlotPoint) =>
    at.x > 0 && at.x < 1 && setPoints([...points, { x: rounded(at.x), y: rounded(at.y) }].sort((a, b) => a.x - b.x));
  const use = () => {
    const written = (p: PlotPoint) => `${p.y} ${unit}`;
    const inner = points.slice(0, -1).filter((p, i) => i > 0 || p.y !== begin[0]?.y);
    const values = inner.map((p) => ({ at: Math.min(p.x, 0.999999), value: written(p) }));
    tell(
      onEdit(
        [
          put(`${path}/courses/${step.id}`, values),
          put(`${path}/values/${step.id}`, written(points[last] ?? { x: 1, y: 0 })),
        ],
        `Course of ${load.name} in ${step.name}`,
      ).then(onClose),
    );
  };
  return (
    <Dialogue title={`${load.name} in ${step.name}`} action="Use the course" mayAct onAct={use} onClose={onClose}>
      <div>
        <PointPlot
          label={`Course of ${load.name}`}
          line={points}
          xLabel="share of the step"
          yLabel={unit}
          onMove={change}
          onAdd={add}
        />
        <p className="text-[12.5px] text-quiet">Drag points, or double-click where there is none to add one.</p>
      </div>
      <div>
        <ul className="max-h-[230px] overflow-auto">
          {points.map((p, i) => (
            <li key={i} className="flex items-center gap-2 py-0.5">
              <Entry
                label={`Share of point ${i + 1}`}
                value={p.x}
                unit=""
                isFixed={i === 0 || i === last}
                onChange={(x) => change(i, { ...p, x })}
              />
              <Entry
                label={`Value of point ${i + 1}`}
                value={p.y}
                unit={unit}
                onChange={(y) => change(i, { ...p, y })}
              />
              {i > 0 && i < last && (
                <button
                  type="button"
                  aria-label={`Take point ${i + 1} away`}
                  className="text-quiet hover:text-vermilion"
                  onClick={() => setPoints(points.filter((_, k) => k !== i))}
                >
                  ×
                </button>
              )}
            </li>
          ))}
        </ul>
        <div className="pt-2">
          <SheetInput
            hint="Or rows of time, or share of the step, and value:"
            onSheet={(sheet) =>
              course.mutate(sheet, {
                onSuccess: (found) => setPoints(found[0]?.x === 0 ? found : [{ x: 0, y: begin[0]?.y ?? 0 }, ...found]),
              })
            }
          />
          <Refusal of={course.error} />
        </div>
      </div>
    </Dialogue>
  );
}

type EntryProps = { label: string; value: number; unit: string; isFixed?: boolean; onChange: (value: number) => void };

function Entry({ label, value, unit, isFixed, onChange }: EntryProps) {
  return (
    <label className="flex items-center gap-1">
      <input
        type="number"
        step="any"
        aria-label={label}
        value={value}
        disabled={isFixed}
        onChange={(e) => Number.isFinite(e.target.valueAsNumber) && onChange(e.target.valueAsNumber)}
        className="w-[88px] rounded border border-line bg-white px-1.5 py-0.5 text-right disabled:bg-panel"
      />
      <span className="text-quiet">{unit}</span>
    </label>
  );
}

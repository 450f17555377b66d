import { useMemo, useState } from "react";

import type { RunInfo, StudyDocument, Summary } from "@/api/client";
import { useHistory } from "@/api/hooks";
import { COLOURS } from "@/ui/colours";
import { CurvePlot, type Line } from "@/ui/CurvePlot";
import { figure } from "@/ui/format";
import { Select } from "@/ui/Select";

import { runName } from "./RunCard";
import { type Course, asCsv, coursesOf, firstCurves, saveText } from "./quantities";

type Props = {
  study: StudyDocument;
  history: Summary[];
  head: number;
  onHead: (index: number) => void;
  /** Other runs of the study that have results. */
  others: RunInfo[];
};

const LINE_COLOURS = [COLOURS.verdigris, COLOURS.copper, COLOURS.ink, COLOURS.verdigrisMid, COLOURS.copperMid] as const;
const NONE = "none";
const titleOf = (c: Course) => (c.unit ? `${c.label} (${c.unit})` : c.label);

/** Any quantity of a run against time or any other, with an earlier run beside it; tied to the play head. */
export function Curves({ study, history, head, onHead, others }: Props) {
  const courses = useMemo(() => coursesOf(study, history), [study, history]);
  const [asked, setAsked] = useState<{ x: string; y: string[] }>();
  const [beside, setBeside] = useState(NONE);
  const besideRun = others.find((r) => String(r.id) === beside);
  const other = useHistory(besideRun?.id, besideRun?.increments ?? 0);
  const { x, y } = asked ?? firstCurves(study, courses);
  const find = (key: string) => courses.find((c) => c.key === key);
  const along = find(x) ?? courses[0];
  const shown = y.flatMap((key) => find(key) ?? []);
  const units = [...new Set(shown.map((c) => c.unit))];
  const colour = (i: number) => LINE_COLOURS[i % LINE_COLOURS.length]!;
  const ghosts = useMemo(() => (other.data ? coursesOf(study, other.data) : []), [study, other.data]);
  const lines = useMemo(() => {
    const made: Line[] = shown.map((c, i) => ({
      label: c.label,
      unit: c.unit,
      x: along?.values ?? [],
      y: c.values,
      colour: colour(i),
      dots: history.length < 60,
    }));
    const ghostX = ghosts.find((g) => g.key === along?.key);
    shown.forEach((c, i) => {
      const ghost = ghosts.find((g) => g.key === c.key);
      if (ghost && ghostX)
        made.push({
          label: c.label,
          unit: c.unit,
          x: ghostX.values,
          y: ghost.values,
          colour: colour(i),
          isFaint: true,
        });
    });
    return made;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [courses, ghosts, x, y.join("\n")]);
  if (!along) return null;
  const add = courses.filter((c) => c.key !== x && !y.includes(c.key) && (units.length < 2 || units.includes(c.unit)));
  return (
    <section aria-label="Curves" className="flex h-full min-h-0 gap-3 bg-paper px-3 pt-1 pb-2 text-[13px]">
      <div className="flex w-72 shrink-0 flex-col gap-0.5 overflow-auto">
        <Select
          label="against"
          value={along.key}
          options={courses.map((c) => ({ value: c.key, label: titleOf(c) }))}
          onChange={(next) => setAsked({ x: next, y })}
        />
        {shown.map((c, i) => (
          <div key={c.key} className="flex items-baseline gap-2" data-curve={c.key}>
            <span className="h-0.5 w-4 shrink-0 self-center" style={{ background: colour(i) }} />
            <span className="min-w-0 truncate" title={c.label}>
              {c.label}
            </span>
            <b className="ml-auto shrink-0">
              {figure(c.values[head] ?? 0)} {c.unit}
            </b>
            <button
              type="button"
              aria-label={`Take ${c.label} away`}
              className="text-quiet hover:text-vermilion"
              onClick={() => setAsked({ x, y: y.filter((key) => key !== c.key) })}
            >
              ×
            </button>
          </div>
        ))}
        <Select
          label="add"
          value=""
          placeholder="a quantity…"
          options={add.map((c) => ({ value: c.key, label: titleOf(c) }))}
          onChange={(next) => setAsked({ x, y: [...y, next] })}
        />
        {others.length > 0 && (
          <Select
            label="beside"
            value={beside}
            options={[
              { value: NONE, label: "no other run" },
              ...others.map((r) => ({ value: String(r.id), label: runName(r) })),
            ]}
            onChange={setBeside}
          />
        )}
        <button
          type="button"
          className="self-start text-verdigris hover:underline"
          onClick={() => saveText("curves.csv", asCsv([along, ...shown]))}
        >
          Save as CSV
        </button>
      </div>
      <div className="min-w-0 flex-1">
        {shown.length ? (
          <CurvePlot
            label={`${shown.map((c) => c.label).join(", ")} against ${along.label}`}
            xLabel={titleOf(along)}
            lines={lines}
            at={head}
            onAt={onHead}
          />
        ) : (
          <p className="grid h-full place-items-center text-quiet">Add what is to be plotted.</p>
        )}
      </div>
    </section>
  );
}

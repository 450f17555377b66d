import { type ReactNode, useMemo, useState } from "react";

import type { PatchStep, StudyDocument, Summary } from "@/api/client";
import { isSelected, useSelection } from "@/features/selection";
import { Field } from "@/ui/Field";
import { tell } from "@/ui/notices";
import { useFilter } from "@/ui/useFilter";

import { BoardCell } from "./BoardCell";
import { type Amounts, type Lane, courseOf, lanesOf } from "./boardModel";
import { PlayHead } from "./PlayHead";

type Props = {
  study: StudyDocument;
  amounts: Amounts;
  /** Ids of what sleeps, by kind. */
  asleep?: Record<string, string[]>;
  onEdit?: (patch: PatchStep[], label: string) => Promise<unknown>;
  /** What stands beside the title. */
  aside?: ReactNode;
  results?: { history: Summary[]; head: number; onHead: (index: number) => void };
};

const KIND_WIDTH = 58;
const NAME_WIDTH = 164;
const READOUT_WIDTH = 92;
const RESULT_WIDTH = 132;
const GAP = 8;

/** Of the window, at most so much; a small one gives what eight rows need. */
const SHARE = 0.28;

/** Height in pixels at which the board shows every lane, within what leaves room for the stage. */
export function boardHeight(study: StudyDocument): number {
  const lanes = [study.supports, study.bolts, study.loads, study.pairs].reduce((n, list) => n + (list?.length ?? 0), 0);
  return Math.min(44 + 26 * Math.max(lanes, 1), Math.max(226, SHARE * window.innerHeight));
}

/** The sequence board: steps as columns, things that act as rows; after a run also the time scrubber. */
export function Board({ study, amounts, asleep, onEdit, aside, results }: Props) {
  const { selected, select } = useSelection();
  const [editing, setEditing] = useState<{ lane: string; step: number }>();
  const all = useMemo(() => lanesOf(study, amounts, asleep), [study, amounts, asleep]);
  const [lanes, filter] = useFilter(all, (lane) => `${lane.kind} ${lane.name}`, "Find in the sequence");
  const steps = study.steps ?? [];
  const isOut = (step: string) => !!asleep?.step?.includes(step);
  const readout = results ? RESULT_WIDTH : READOUT_WIDTH;
  const columns = `${KIND_WIDTH}px ${NAME_WIDTH}px repeat(${steps.length}, minmax(120px, 1fr)) ${readout}px`;

  const commit = (lane: Lane, step: number, text: string) => {
    const list = lane.select.kind === "bolt" ? "bolts" : "loads";
    const field = lane.select.kind === "bolt" ? "preload" : "values";
    const index = (study[list] ?? []).findIndex((item) => item.id === lane.select.id);
    const path = `/${list}/${index}/${field}/${steps[step]?.id}`;
    const had = lane.written?.[step] !== undefined;
    if (!text && !had) return Promise.resolve();
    const patch: PatchStep = text ? { op: had ? "replace" : "add", path, value: text } : { op: "remove", path };
    return onEdit ? onEdit([patch], `${lane.name} in ${steps[step]?.name}`) : Promise.resolve();
  };

  return (
    <section aria-label="Sequence board" className="relative h-full overflow-auto bg-paper px-3 pb-2 text-[13px]">
      <div className="relative grid min-w-[760px] items-stretch gap-x-2" style={{ gridTemplateColumns: columns }}>
        <div className="col-span-2 flex items-center gap-3">
          <h2 className="py-1.5 text-[12px] font-semibold tracking-wide text-quiet">Sequence</h2>
          {filter}
          {aside}
        </div>
        {steps.map((step, i) => (
          <button
            key={step.id}
            type="button"
            onClick={() => select({ kind: "step", id: step.id })}
            className={`flex items-baseline gap-2 rounded px-1 py-1.5 text-left ${isSelected(selected, "step", step.id) ? "bg-verdigris-pale" : "hover:bg-panel"}`}
          >
            <span className="text-quiet">{i + 1}</span>
            <span className={isOut(step.id) ? "text-quiet line-through" : "font-semibold"}>{step.name}</span>
            <span className="ml-auto text-[12px] text-quiet">
              {isOut(step.id) ? "left out" : incrementsText(step, results?.history, i)}
            </span>
          </button>
        ))}
        {onEdit && !results ? (
          <button
            type="button"
            className="py-1.5 text-right text-[13px] text-verdigris hover:underline"
            onClick={() => tell(onEdit([newStep(steps)], "Add a step"))}
          >
            Add a step
          </button>
        ) : (
          <span className="py-1.5 text-right text-[12px] text-quiet">{results ? "at the head" : ""}</span>
        )}
        {lanes.map((lane) => {
          const course = results && courseOf(lane, study, results.history, results.head);
          const chosen = isSelected(selected, lane.select.kind, lane.select.id);
          return (
            <div key={lane.key} data-lane={lane.key} className="contents">
              <span className="py-1 text-quiet">{lane.kind}</span>
              <button
                type="button"
                onClick={() => select(lane.select)}
                className={`truncate rounded px-1 py-1 text-left ${chosen ? "bg-verdigris-pale font-semibold" : "hover:bg-panel"}`}
              >
                {lane.name}
              </button>
              {lane.cells.map((cell, i) =>
                editing?.lane === lane.key && editing.step === i ? (
                  <Field
                    key={i}
                    label={`${lane.name} in ${steps[i]?.name}`}
                    hideLabel
                    wide
                    autoFocus
                    value={lane.written?.[i] ?? ""}
                    onCommit={(text) => commit(lane, i, text)}
                    onDone={() => setEditing(undefined)}
                  />
                ) : (
                  <BoardCell
                    key={i}
                    lane={lane}
                    cell={cell}
                    step={i}
                    stepName={steps[i]?.name ?? ""}
                    course={course?.points}
                    onEdit={onEdit && lane.written ? () => setEditing({ lane: lane.key, step: i }) : undefined}
                    onWrite={onEdit && lane.written ? (text) => tell(commit(lane, i, text)) : undefined}
                    onSelect={() => select(lane.select)}
                  />
                ),
              )}
              <span className="py-1 text-right font-semibold">{course?.readout ?? ""}</span>
            </div>
          );
        })}
        {results && results.history.length > 0 && (
          <PlayHead
            history={results.history}
            head={results.head}
            steps={steps.length}
            left={KIND_WIDTH + NAME_WIDTH + 2 * GAP}
            right={readout + GAP}
            onHead={results.onHead}
          />
        )}
      </div>
    </section>
  );
}

function newStep(steps: { id: string }[]): PatchStep {
  const taken = new Set(steps.map((step) => step.id));
  let n = steps.length + 1;
  while (taken.has(`step-${n}`)) n++;
  return { op: "add", path: "/steps/-", value: { id: `step-${n}`, name: `Step ${n}` } };
}

function incrementsText(
  step: NonNullable<StudyDocument["steps"]>[number],
  history: Summary[] | undefined,
  index: number,
) {
  if (history) return `${history.filter((s) => s.step === index).length} inc`;
  return `${Math.ceil(1 / step.increments.largest)} inc or more`;
}

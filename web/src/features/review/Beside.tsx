import { useEffect, useState } from "react";

import type { RunInfo, Summary } from "@/api/client";
import { useHistory, useRunDocument } from "@/api/hooks";
import { inChosenUnits } from "@/api/units";
import type { Mirrors } from "@/scene/mirrors";
import { Stage } from "@/scene/Stage";
import type { Limits } from "@/scene/Stage3D";
import type { ViewTie } from "@/scene/viewTie";
import { Select } from "@/ui/Select";

import { type Shown, fieldsOf } from "./fields";
import { Legend, type Range, StatusLegend } from "./Legend";
import { runName, useChanges } from "./RunCard";
import { useReviewLook } from "./useReviewLook";

type Props = {
  runs: RunInfo[];
  run: RunInfo;
  /** Where the play head is, in steps. */
  time: number;
  shown: Shown;
  scale: number;
  /** Those of what it stands beside. */
  limits: Limits | undefined;
  isSolid: boolean;
  mirrors: Mirrors;
  tie: ViewTie;
  /** Which increment of which run stands there. */
  onSeen: (seen: Seen | undefined) => void;
};
export type Seen = { run: number; increment: number };

/** So many sentences of what is other are told. */
const TOLD = 3;
const NOTHING = { colours: [], looks: [], highlights: [], showMesh: false, scale: 1 };

/** Another field or run beside the one that is looked at: view and play head are tied, limits too where fields are alike. */
export function Beside({ runs, run, time, shown, scale, limits, isSolid, mirrors, tie, onSeen }: Props) {
  const [runId, setRunId] = useState<number>();
  const [field, setField] = useState<string>();
  const [own, setOwn] = useState<Range>();
  const other = runs.find((r) => r.id === runId) ?? runs.find((r) => r.id < run.id) ?? run;
  const solved = useRunDocument(other.id).data;
  const history = useHistory(other.id, other.increments).data;
  const head = history && nearest(history, time);
  const beside: Shown = { ...shown, field: field ?? shown.field };
  const isAlike = beside.field === shown.field;
  const known = solved && (shown.kind === "part" || solved.document.pairs?.some((p) => p.id === shown.pair));
  const view = useReviewLook({
    study: solved?.document,
    runId: known ? other.id : undefined,
    head: known ? head : undefined,
    ...{ shown: beside, scale, isSolid, mirrors },
    own: isAlike ? limits : own,
  });
  const at = head === undefined ? undefined : history?.[head];
  const changed = useChanges(other.id, other.id === run.id ? undefined : run.id).data;
  useEffect(() => {
    onSeen(head === undefined || other.id === run.id ? undefined : { run: other.id, increment: head });
    return () => onSeen(undefined);
  }, [head, other.id, run.id, onSeen]);
  return (
    <div className="min-w-0 flex-1 border-l border-line" aria-label="Beside" role="group">
      <Stage block={view?.block} look={view?.look ?? NOTHING} hasLegend tie={tie}>
        <div className="absolute inset-x-4 top-2 flex flex-wrap items-start gap-2">
          <Select
            label="Run beside"
            hideLabel
            value={String(other.id)}
            options={runs.map((r) => ({ value: String(r.id), label: runName(r) }))}
            onChange={(id) => setRunId(Number(id))}
          />
          <Select
            label="Field beside"
            hideLabel
            value={beside.field}
            options={fieldsOf(shown.kind).map((f) => ({ value: f.name, label: f.label }))}
            onChange={(name) => {
              setField(name);
              setOwn(undefined);
            }}
          />
          <span className="pt-1 text-[13px] text-quiet" data-testid="beside">
            {at ? `increment ${(head ?? 0) + 1}, ${solved?.document.steps?.[at.step]?.name ?? ""}` : "…"}
          </span>
          {changed && changed.length > 0 && (
            <ul aria-label="Other here" className="w-full text-[12.5px] text-copper" title={changed.join("\n")}>
              {changed.slice(0, TOLD).map((line) => (
                <li key={line} className="truncate">
                  {inChosenUnits(line)}
                </li>
              ))}
              {changed.length > TOLD && <li>and {changed.length - TOLD} more</li>}
            </ul>
          )}
        </div>
        {solved && !known && <p className="absolute inset-x-4 top-14">That run has no such pair.</p>}
        {view &&
          (beside.field === "status" ? (
            <StatusLegend />
          ) : (
            <Legend
              {...view.limits}
              unit={view.meaning.spoken}
              isQuiet={view.isQuiet}
              own={own}
              {...(!isAlike && { onOwn: setOwn })}
            />
          ))}
      </Stage>
    </div>
  );
}

/** The increment that is nearest to a time in steps. */
function nearest(history: Summary[], time: number): number {
  let best = 0;
  history.forEach((s, i) => {
    const away = (of: Summary | undefined) => Math.abs((of ? of.step + of.time : Infinity) - time);
    if (away(s) <= away(history[best])) best = i;
  });
  return best;
}

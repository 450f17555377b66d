import { useMemo } from "react";
import { Link } from "wouter";

import type { StudyInfo } from "@/api/client";
import { isActive, useResumeRun, useRuns, useStartRun, useStopRun } from "@/api/hooks";
import { useKeepSizes, useSettled } from "@/api/settling";
import { useRunEvents } from "@/api/useRunEvents";
import { Button } from "@/ui/Button";
import { duration } from "@/ui/format";
import { useNotices } from "@/ui/notices";

import { LastState } from "./LastState";
import { Plot } from "./Plot";
import { progressOf, shareDone, tell } from "./story";
import { SettledTable } from "./SettledTable";
import { StoryList } from "./StoryList";
import { COLOURS } from "@/ui/colours";

const WORDS: Record<string, string> = {
  queued: "waits for its turn",
  running: "is running",
  solved: "is solved",
  "not-converged": "did not converge",
  stopped: "was stopped",
  failed: "failed",
};

const KEPT = "The sizes that were found are those of the study now.";

/** One run as it goes: its story beside the plots and the last converged state. */
export function RunView({ info, runId }: { info: StudyInfo; runId: number | undefined }) {
  const runs = useRuns(info.id);
  const run = runs.data?.find((r) => r.id === runId) ?? runs.data?.[0];
  const start = useStartRun(info.id);
  const stop = useStopRun(info.id);
  const resume = useResumeRun(info.id);
  const keep = useKeepSizes(info.id);
  const told = useNotices((s) => s.add);
  const settled = useSettled(run, run !== undefined && isActive(run.status));
  const events = useRunEvents(run?.id);
  const steps = useMemo(() => info.document.steps ?? [], [info.document.steps]);
  const lines = useMemo(
    () =>
      tell(
        events,
        steps.map((s) => s.name),
      ),
    [events, steps],
  );
  const progress = useMemo(() => progressOf(events), [events]);
  const increments = progress.before + progress.increments.length;
  const active = run !== undefined && isActive(run.status);
  const done = run?.status === "solved" ? 1 : shareDone(events, steps.length);
  const seconds = events.at(-1)?.seconds;

  if (runs.isPending) return <p className="p-6 text-quiet">Fetching the runs…</p>;
  if (!run) {
    return (
      <div className="grid flex-1 place-items-center">
        <div className="text-center">
          <p className="pb-3">This study has not been run yet.</p>
          <Button tone="main" onClick={() => start.mutate()}>
            Run it now
          </Button>
        </div>
      </div>
    );
  }
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[400px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_220px]">
      <header className="col-span-2 flex items-center gap-4 border-b border-line px-5 py-2">
        <p className="text-[16px]" data-testid="run-status" data-status={run.status}>
          <b>Run {run.id}</b> of r{run.revision}
          {run.variant && `, ${run.variant},`}
          {run.resumed_from ? `, going on from run ${run.resumed_from},` : ""} {WORDS[run.status] ?? run.status}
        </p>
        <div
          className="h-2 max-w-[360px] flex-1 rounded-full bg-line"
          role="progressbar"
          aria-label="Share of the sequence done"
          aria-valuenow={Math.round(done * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
        >
          <div className="h-2 rounded-full bg-verdigris transition-[width]" style={{ width: `${done * 100}%` }} />
        </div>
        <span className="text-quiet">
          {increments} increments · {progress.residual.length} iterations{seconds ? ` · ${duration(seconds)}` : ""}
        </span>
        <span className="ml-auto flex gap-2">
          {active && (
            <Button tone="danger" disabled={stop.isPending} onClick={() => stop.mutate(run.id)}>
              Stop
            </Button>
          )}
          {run.may_resume && (
            <Button disabled={resume.isPending} onClick={() => resume.mutate(run.id)}>
              {run.settling ? "Go on with the mesh it was at" : `Resume from increment ${run.increments}`}
            </Button>
          )}
          {!active && <Button onClick={() => start.mutate()}>Run again</Button>}
          {settled.data && Object.keys(settled.data.found ?? {}).length > 0 && !active && (
            <Button
              disabled={keep.isPending}
              title="Make the mesh of the study as fine as was found"
              onClick={() => keep.mutate(run.id, { onSuccess: () => told({ tone: "good", text: KEPT }) })}
            >
              Keep these sizes
            </Button>
          )}
          {run.increments > 0 && (
            <Link
              href={`/studies/${info.id}/review`}
              className="rounded-md border border-verdigris bg-verdigris px-3 py-1 font-semibold text-white"
            >
              Review
            </Link>
          )}
        </span>
      </header>
      <StoryList info={info} lines={lines} active={active} />
      {run.settling && settled.data ? (
        <SettledTable settled={settled.data} active={active} />
      ) : (
        <LastState study={info.document} runId={run.id} kept={progress.kept} />
      )}
      <div className="col-span-2 flex min-h-0 border-t border-line bg-paper">
        <Plot
          title="Change per iteration (settled below 10⁻⁸)"
          x={progress.residual.map((r) => r.x)}
          series={[{ label: "change", values: progress.residual.map((r) => r.y), colour: COLOURS.verdigris }]}
          log
          xLabel="iteration"
        />
        <Plot
          title="Contact nodes that changed state"
          x={progress.residual.map((r) => r.x)}
          series={[{ label: "changes", values: progress.residual.map((r) => r.flips), colour: COLOURS.copper }]}
          xLabel="iteration"
        />
        <Plot
          title="Iterations per increment"
          x={progress.increments.map((_, i) => i + 1)}
          series={[{ label: "iterations", values: progress.increments.map((p) => p.iterations), colour: COLOURS.ink }]}
          xLabel="increment"
        />
      </div>
    </div>
  );
}

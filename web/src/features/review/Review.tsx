import { useEffect, useRef, useState } from "react";

import { ApiProblem, type RunInfo, type StudyInfo } from "@/api/client";
import { isActive, useHistory, useLedger, useRunDocument, useRuns } from "@/api/hooks";
import { Board, boardHeight } from "@/features/board/Board";
import { CutControl, CutSwitch, useCut } from "@/scene/CutControl";
import { Stage } from "@/scene/Stage";
import { Select } from "@/ui/Select";
import { Workroom } from "@/ui/Workroom";

import { DetailPanel } from "./DetailPanel";
import { fieldsOf, type Shown } from "./fields";
import { Imprint } from "./Imprint";
import { LedgerPanel } from "./LedgerPanel";
import { Legend, StatusLegend } from "./Legend";
import { useReviewLook } from "./useReviewLook";

const NOTHING = { colours: [], looks: [], highlights: [], showMesh: false, scale: 1 };
const SCALES = [1, 10, 50, 200].map((s) => ({ value: String(s), label: s === 1 ? "true scale" : `moved ×${s}` }));
const PLAY_MS = 450;

/** What came back: ledger, fields on the stage, numbers, and the board as time scrubber. */
export function Review({ info, runId }: { info: StudyInfo; runId: number | undefined }) {
  const runs = useRuns(info.id);
  const run = runs.data?.find((r) => (runId === undefined ? r.increments > 0 : r.id === runId));
  const solved = useRunDocument(run?.id);
  const history = useHistory(run?.id, run?.increments ?? 0);
  const count = history.data?.length ?? 0;
  const [head, setHead] = useState<number>();
  const [playing, setPlaying] = useState(false);
  const [scale, setScale] = useState("1");
  // As it was solved: the study may have been edited since.
  const { document: study, amounts } = solved.data ?? info;
  const firstPair = study.pairs?.[0]?.id;
  const [chosen, setChosen] = useState<Shown>();
  const fallback = useRef<Shown>({ kind: "part", part: undefined, field: "von_mises" });
  if (firstPair && fallback.current.kind === "part")
    fallback.current = { kind: "pair", pair: firstPair, field: "pressure" };
  const shown = chosen ?? fallback.current;
  const at = count ? Math.min(head ?? count - 1, count - 1) : undefined;
  const ledger = useLedger(run?.id, at);
  const view = useReviewLook(study, run?.id, at, shown, Number(scale));
  const cut = useCut(view?.block);

  useEffect(() => {
    if (!playing || !count) return;
    const timer = window.setInterval(() => setHead((h) => ((h ?? count - 1) + 1) % count), PLAY_MS);
    return () => window.clearInterval(timer);
  }, [playing, count]);

  if (runs.isPending || (run && history.isPending)) return <p className="p-6 text-quiet">Fetching the results…</p>;
  if (!run || at === undefined || !history.data) {
    return <p className="grid flex-1 place-items-center">There is nothing to review yet: run the study first.</p>;
  }
  const now = history.data[at];
  const title =
    shown.kind === "pair"
      ? study.pairs?.find((p) => p.id === shown.pair)?.name
      : shown.part === undefined
        ? "all parts"
        : study.parts?.find((p) => p.id === shown.part)?.name;

  const ledgerPanel = (
    <div tabIndex={0} className="h-full overflow-auto">
      <div className="flex justify-between px-4 pt-2">
        <h2 className="text-[12px] font-semibold tracking-wide text-quiet">Ledger</h2>
        <span className="text-[12.5px] text-quiet">
          run {run.id}, r{run.revision}
          {run.revision !== info.revision && <b className="text-copper"> · study edited since</b>}
        </span>
      </div>
      <Notes run={run} latest={runs.data?.[0]} problem={ledger.error} />
      {ledger.data && <LedgerPanel ledger={ledger.data} shown={shown} onShow={setChosen} />}
    </div>
  );
  const numbers = (
    <div tabIndex={0} className="h-full overflow-auto">
      {view?.look.patch && shown.kind === "pair" && view.block.patches[view.look.patch.index] && (
        <div className="px-4 pt-2">
          <h2 className="pb-1 text-[12px] font-semibold tracking-wide text-quiet">Imprint</h2>
          <Imprint
            patch={view.block.patches[view.look.patch.index]!}
            values={view.look.patch.values}
            limits={view.limits}
            unit={view.meaning.spoken}
            isStatus={view.look.patch.status}
          />
        </div>
      )}
      {now && <DetailPanel study={study} now={now} shown={shown} rows={ledger.data?.rows ?? []} />}
    </div>
  );
  const sequence = (
    <Board study={study} amounts={amounts} results={{ history: history.data, head: at, onHead: setHead }} />
  );

  return (
    <Workroom
      name="review"
      left={{ label: "the ledger", size: 346, least: 260, children: ledgerPanel }}
      right={{ label: "the numbers", size: 290, least: 240, children: numbers }}
      bottom={{ label: "the sequence", size: boardHeight(study), least: 90, children: sequence }}
    >
      <Stage
        block={view?.block}
        look={view?.look ?? NOTHING}
        cut={cut.plane?.cut}
        hasLegend
        onPick={(pick) =>
          setChosen({
            kind: "part",
            part: pick?.body.split("#")[0],
            field: shown.kind === "part" ? shown.field : "von_mises",
          })
        }
      >
        <div className="absolute inset-x-4 top-2 flex items-start justify-between gap-4">
          <p
            className="min-w-0 pt-1"
            data-testid="shown"
            data-shown={`${shown.kind}/${shown.kind === "pair" ? shown.pair : (shown.part ?? "all")}/${shown.field}/${at}`}
          >
            <b>{view?.meaning.label ?? "…"}</b>{" "}
            <span className="text-quiet">
              on {title} · increment {at + 1}
            </span>
          </p>
          <div className="flex items-center gap-2">
            {study.space === "solid" && <CutSwitch {...cut} />}
            <Select
              label="Field"
              hideLabel
              value={shown.field}
              options={fieldsOf(shown.kind).map((f) => ({ value: f.name, label: f.label }))}
              onChange={(field) => setChosen({ ...shown, field })}
            />
            <Select label="Motion" hideLabel value={scale} options={SCALES} onChange={setScale} />
          </div>
        </div>
        {view && (shown.field === "status" ? <StatusLegend /> : <Legend {...view.limits} unit={view.meaning.spoken} />)}
        <CutControl {...cut} />
        <button
          type="button"
          onClick={() => setPlaying(!playing)}
          className="absolute right-4 bottom-3 rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
        >
          {playing ? "Pause" : "Play"}
        </button>
      </Stage>
    </Workroom>
  );
}

/** What must be known before the figures are read: a later run that came to nothing, a result that cannot be read. */
function Notes({ run, latest, problem }: { run: RunInfo; latest: RunInfo | undefined; problem: Error | null }) {
  const ended = latest && !isActive(latest.status);
  return (
    <>
      {latest && latest.id !== run.id && (
        <p
          role="alert"
          className="mx-3 mt-2 border-l-[3px] border-vermilion bg-paper px-3 py-1.5"
          data-testid="older-run"
        >
          These are the results of run {run.id}. The latest, run {latest.id},{" "}
          {ended ? `has none: ${latest.message}` : "has none yet."} {latest.hint}
        </p>
      )}
      {latest?.id === run.id && latest.status !== "solved" && ended && (
        <p
          role="alert"
          className="mx-3 mt-2 border-l-[3px] border-copper bg-paper px-3 py-1.5"
          data-testid="unfinished-run"
        >
          Run {run.id} did not come to its end: {latest.message} What had converged before is shown.
        </p>
      )}
      {problem && (
        <p role="alert" className="px-4 pt-2 text-vermilion">
          {problem.message} {problem instanceof ApiProblem && problem.hint}
        </p>
      )}
    </>
  );
}

import { useEffect, useState } from "react";
import { Link, useLocation } from "wouter";

import { ApiProblem } from "@/api/client";
import { useEdits, usePreflight, useStartRun, useStudy } from "@/api/hooks";
import { useSettle } from "@/api/settling";
import { Button } from "@/ui/Button";

import { Ask } from "./ask/Ask";
import { Bench } from "./bench/Bench";
import { CommandBar } from "./CommandBar";
import { Review } from "./review/Review";
import { RunView } from "./run/RunView";
import { SettleDialog } from "./run/SettleDialog";
import { useSelection } from "./selection";

const VIEWS = [
  { key: "bench", label: "Bench" },
  { key: "run", label: "Run" },
  { key: "review", label: "Review" },
  { key: "ask", label: "Ask again" },
] as const;

const SETTLES = "Solve the study on finer and finer meshes until its verdicts stay";

/** One study: its head with views, undo and run, and the view itself. */
export function StudyPage({ id, view }: { id: number; view: string }) {
  const study = useStudy(id);
  const { undo, redo } = useEdits(id);
  const start = useStartRun(id);
  const settle = useSettle(id);
  const [isSettling, setSettling] = useState(false);
  const [, go] = useLocation();
  const preflight = usePreflight(id, study.data?.revision);
  const { select } = useSelection();
  useEffect(() => select({ kind: "study", id: "" }), [id, select]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest("input, textarea");
      if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      event.preventDefault();
      (event.shiftKey ? redo : undo).mutate();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);

  if (study.isPending) return <p className="p-6 text-quiet">Fetching the study…</p>;
  if (study.error) {
    const hint = study.error instanceof ApiProblem ? study.error.hint : "";
    return (
      <p className="p-6 text-vermilion">
        {study.error.message} {hint}{" "}
        <Link href="/" className="underline">
          Back to the shelf
        </Link>
      </p>
    );
  }
  const info = study.data;
  const run = () => start.mutate(undefined, { onSuccess: () => go(`/studies/${id}/run`) });
  const mayRun = !preflight.error && (preflight.data?.may_run ?? true);
  const why = preflight.error ? "Preflight could not be made" : "Preflight has something that must be mended first";
  return (
    <>
      <header className="flex h-11 items-center gap-3 border-b border-line px-4">
        <Link href="/" className="text-[18px] font-bold tracking-tight" aria-label="Ulmek, back to the shelf">
          ul<span className="text-verdigris">m</span>ek
        </Link>
        <h1 className="truncate text-quiet">
          {info.document.machine} <b className="text-ink">/ {info.document.title}</b>{" "}
          <span data-testid="revision">r{info.revision}</span>
        </h1>
        <button
          type="button"
          aria-label={info.undo ? `Undo: ${info.undo}` : "Undo"}
          title={info.undo ? `Undo: ${info.undo}` : "Nothing to undo"}
          disabled={!info.undo}
          onClick={() => undo.mutate()}
          className="rounded px-1.5 text-[16px] enabled:hover:bg-panel disabled:opacity-30"
        >
          ↶
        </button>
        <button
          type="button"
          aria-label={info.redo ? `Redo: ${info.redo}` : "Redo"}
          title={info.redo ? `Redo: ${info.redo}` : "Nothing to redo"}
          disabled={!info.redo}
          onClick={() => redo.mutate()}
          className="rounded px-1.5 text-[16px] enabled:hover:bg-panel disabled:opacity-30"
        >
          ↷
        </button>
        <nav className="mx-auto flex gap-1" aria-label="Views">
          {VIEWS.map((v) => (
            <Link
              key={v.key}
              href={`/studies/${id}/${v.key}`}
              aria-current={view === v.key ? "page" : undefined}
              className={`rounded-md px-3.5 py-1 ${view === v.key ? "bg-ink text-white" : "hover:bg-panel"}`}
            >
              {v.label}
            </Link>
          ))}
        </nav>
        <CommandBar info={info} onRun={run} onSettle={() => setSettling(true)} />
        <Button disabled={!mayRun || settle.isPending} title={mayRun ? SETTLES : why} onClick={() => setSettling(true)}>
          Settle…
        </Button>
        <Button
          tone="main"
          disabled={!mayRun || start.isPending}
          title={mayRun ? "Solve the study as it stands" : why}
          onClick={run}
        >
          Check and run
        </Button>
      </header>
      {isSettling && (
        <SettleDialog
          onClose={() => setSettling(false)}
          onSettle={(wanted) => {
            setSettling(false);
            settle.mutate(wanted, { onSuccess: () => go(`/studies/${id}/run`) });
          }}
        />
      )}
      <main className="flex min-h-0 flex-1 flex-col">
        {view === "run" ? (
          <RunView info={info} runId={undefined} />
        ) : view === "review" ? (
          <Review info={info} />
        ) : view === "ask" ? (
          <Ask info={info} />
        ) : (
          <Bench info={info} />
        )}
      </main>
    </>
  );
}

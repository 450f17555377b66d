import { Link, useLocation } from "wouter";

import { ApiProblem, type StudySummary } from "@/api/client";
import { useCreateStudy, useDeleteStudy, useDemos, useStudies } from "@/api/hooks";
import { Thumbnail } from "@/scene/Thumbnail";
import { Button } from "@/ui/Button";
import { tell } from "@/ui/notices";

const STATES: Record<string, string> = {
  queued: "waiting to run",
  running: "running",
  solved: "solved",
  "not-converged": "did not converge",
  stopped: "stopped",
  failed: "failed",
};

const EMPTY = {
  format: "ulmek-study",
  version: 1,
  name: "assembly",
  title: "New assembly",
  steps: [{ id: "load", name: "Load" }],
};

/** Where studies are kept and started. */
export function Shelf() {
  const studies = useStudies();
  const demos = useDemos();
  const create = useCreateStudy();
  const [, go] = useLocation();
  const open = (body: { demo?: string; document?: Record<string, unknown> }) =>
    create.mutate(body, { onSuccess: (study) => go(`/studies/${study.id}/bench`) });

  const readFile = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    try {
      open({ document: JSON.parse(text) as Record<string, unknown> });
    } catch {
      open({ document: { unreadable: file.name } });
    }
  };

  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <div className="mx-auto max-w-[1180px]">
        <h1 className="text-[22px] font-semibold">Studies</h1>
        <p className="pb-4 text-quiet">Every study is one assembly with its pairs, sequence and runs.</p>
        {studies.isPending && <p className="text-quiet">Fetching the shelf…</p>}
        {studies.error && <p className="text-vermilion">The shelf cannot be read: {studies.error.message}</p>}
        {studies.data?.length === 0 && (
          <p className="pb-4">The shelf is empty. Start from a demo or a study file below.</p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(340px,1fr))] gap-5">
          {studies.data?.map((study) => (
            <Card key={study.id} study={study} />
          ))}
        </ul>
        <h2 className="pt-8 pb-2 text-[17px] font-semibold">Start a study</h2>
        <div className="flex flex-wrap items-stretch gap-4">
          {demos.data?.map((demo) => (
            <div key={demo.name} className="flex w-[340px] flex-col rounded-lg border border-line bg-panel p-3">
              <p className="font-semibold">{demo.title}</p>
              <p className="flex-1 py-1 text-quiet">{demo.notes}</p>
              <Button
                className="self-start"
                aria-label={`Start from the demo ${demo.title}`}
                disabled={create.isPending}
                onClick={() => open({ demo: demo.name })}
              >
                Start from this demo
              </Button>
            </div>
          ))}
          <div className="flex w-[340px] flex-col rounded-lg border border-line bg-panel p-3">
            <p className="font-semibold">Empty assembly</p>
            <p className="flex-1 py-1 text-quiet">
              Add parts by recipe, mate their faces, and let Ulmek find the pairs.
            </p>
            <Button className="self-start" disabled={create.isPending} onClick={() => open({ document: EMPTY })}>
              Start empty
            </Button>
          </div>
          <label className="flex w-[340px] cursor-pointer flex-col rounded-lg border border-dashed border-line p-3 hover:bg-panel">
            <span className="font-semibold">Study file</span>
            <span className="flex-1 py-1 text-quiet">Open a *.ulmek.json file that was saved or written by hand.</span>
            <span className="text-verdigris underline">Choose a file</span>
            <input
              type="file"
              accept=".json"
              className="sr-only"
              onChange={(e) => tell(readFile(e.target.files?.[0]))}
            />
          </label>
        </div>
        {create.error && (
          <p role="alert" className="pt-3 text-vermilion">
            {create.error instanceof ApiProblem && create.error.where && `${create.error.where}: `}
            {create.error.message} {create.error instanceof ApiProblem && create.error.hint}
          </p>
        )}
      </div>
    </main>
  );
}

function Card({ study }: { study: StudySummary }) {
  const remove = useDeleteStudy();
  const status = study.run?.status;
  const reviewable = (study.run?.increments ?? 0) > 0;
  return (
    <li className="overflow-hidden rounded-lg border border-line bg-panel" data-study={study.id}>
      <Link href={`/studies/${study.id}/${reviewable ? "review" : "bench"}`} className="block">
        <Thumbnail study={study.id} revision={study.revision} bolts={study.bolt_parts} />
      </Link>
      <div className="p-3">
        <div className="flex items-baseline justify-between gap-2">
          <p className="truncate text-[16px] font-semibold">{study.title}</p>
          <span className={status === "failed" || status === "not-converged" ? "text-vermilion" : "text-verdigris"}>
            {status ? STATES[status] : "not run yet"}
          </span>
        </div>
        <p className="text-quiet">
          {study.machine && `${study.machine} · `}
          {study.parts} parts · {study.bolts} bolts · {study.pairs} pairs · r{study.revision}
        </p>
        {study.problem && (
          <p role="alert" className="py-1 text-vermilion">
            ■ {study.problem.message} <span className="text-quiet">{study.problem.hint}</span>
          </p>
        )}
        <ul className="min-h-[44px] py-1.5">
          {(study.remarks ?? []).slice(0, 2).map((remark) => (
            <li key={remark.text} className="flex gap-2">
              <span className={remark.grade === "bad" ? "text-vermilion" : "text-copper"}>
                {remark.grade === "bad" ? "■" : "▲"}
              </span>
              <span className="line-clamp-2">{remark.text}</span>
            </li>
          ))}
          {reviewable && !study.problem && status === "solved" && !study.remarks?.length && (
            <li className="text-verdigris">✓ every joint holds</li>
          )}
          {reviewable && !study.is_current && <li className="text-quiet">edited since this run</li>}
        </ul>
        <div className="flex gap-2">
          <Link
            href={`/studies/${study.id}/bench`}
            className="rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
          >
            Bench
          </Link>
          {reviewable && (
            <Link
              href={`/studies/${study.id}/review`}
              className="rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
            >
              Review
            </Link>
          )}
          <button
            type="button"
            className="ml-auto text-quiet hover:text-vermilion"
            onClick={() =>
              window.confirm(`Take “${study.title}” off the shelf? Its runs go with it.`) && remove.mutate(study.id)
            }
          >
            Remove
          </button>
        </div>
      </div>
    </li>
  );
}

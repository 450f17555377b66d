import { useState } from "react";
import { useLocation } from "wouter";

import { ApiProblem } from "@/api/client";
import { useCreateStudy, useDemos, useStudies } from "@/api/hooks";
import { SPACES } from "@/features/spaces";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { hasWords } from "@/ui/useFilter";

import { StudyCard } from "./StudyCard";

const EMPTY = {
  format: "ulmek-study",
  version: 2,
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
  const [space, setSpace] = useState("solid");
  const [sought, setSought] = useState("");
  const open = (body: { demo?: string; document?: Record<string, unknown> }, begin = "") =>
    create.mutate(body, { onSuccess: (study) => go(`/studies/${study.id}/bench${begin}`) });
  const found = studies.data?.filter((s) => hasWords(`${s.title} ${s.machine} ${s.notes}`, sought));

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
        <div className="flex items-end justify-between gap-4 pb-4">
          <div>
            <h1 className="text-[22px] font-semibold">Studies</h1>
            <p className="text-quiet">Every study is one assembly with its pairs, sequence and runs.</p>
          </div>
          <input
            type="search"
            aria-label="Find a study"
            placeholder="Find by title, machine, notes"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            className="w-[260px] rounded border border-line bg-white px-2 py-1"
          />
        </div>
        {studies.isPending && <p className="text-quiet">Fetching the shelf…</p>}
        {studies.error && <p className="text-vermilion">The shelf cannot be read: {studies.error.message}</p>}
        {studies.data?.length === 0 && (
          <p className="pb-4">The shelf is empty. Start from a demo or a study file below.</p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(340px,1fr))] gap-5">
          {found?.map((study) => (
            <StudyCard key={study.id} study={study} />
          ))}
        </ul>
        {!!studies.data?.length && !found?.length && <p className="text-quiet">No study has these words.</p>}
        <h2 className="pt-8 pb-2 text-[17px] font-semibold">Start a study</h2>
        <div className="flex flex-wrap items-stretch gap-4">
          {demos.data?.map((demo) => (
            <div key={demo.name} className="flex w-[340px] flex-col rounded-lg border border-line bg-panel p-3">
              <p className="font-semibold">{demo.title}</p>
              <p className="flex-1 py-1 text-quiet">{demo.notes}</p>
              <Button className="self-start" disabled={create.isPending} onClick={() => open({ demo: demo.name })}>
                Start from the demo <span className="sr-only">{demo.title}</span>
              </Button>
            </div>
          ))}
          <div className="flex w-[340px] flex-col rounded-lg border border-line bg-panel p-3">
            <p className="font-semibold">Empty assembly</p>
            <p className="flex-1 py-1 text-quiet">
              Add parts by recipe, mate their faces, and let Ulmek find the pairs.
            </p>
            <Select label="Kind of study" value={space} options={SPACES} onChange={setSpace} />
            <Button
              className="mt-2 self-start"
              disabled={create.isPending}
              onClick={() => open({ document: { ...EMPTY, space } })}
            >
              Start empty
            </Button>
          </div>
          <div className="flex w-[340px] flex-col rounded-lg border border-line bg-panel p-3">
            <p className="font-semibold">STEP file</p>
            <p className="flex-1 py-1 text-quiet">
              Its solids become parts where the file has them; then faces that touch are found.
            </p>
            <Button
              className="self-start"
              disabled={create.isPending}
              onClick={() => open({ document: EMPTY }, "?begin=file")}
            >
              Start from a STEP file
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

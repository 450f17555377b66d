import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type RunInfo, api, unwrap } from "@/api/client";
import { inChosenUnits } from "@/api/units";
import { Field } from "@/ui/Field";
import { tell } from "@/ui/notices";
import { Section } from "@/ui/Section";

/** What a run is called. */
export const runName = (run: RunInfo) =>
  run.name || `run ${run.id}, r${run.revision}${run.variant && `, ${run.variant}`}`;

/** What is other in the study of a run than in that of another, in sentences. */
export const useChanges = (run: number, since: number | undefined) =>
  useQuery({
    queryKey: ["changes", run, since],
    queryFn: async () =>
      unwrap<string[]>(
        await api.GET("/api/runs/{run_id}/changes", {
          params: { path: { run_id: run }, query: { since: since ?? 0 } },
        }),
      ),
    enabled: since !== undefined,
    staleTime: Infinity,
  });

type Props = { run: RunInfo; earlier: RunInfo | undefined; onRemoved: () => void };

/** A run by its name and note, what is other in it than in the one before, and how to be rid of it. */
export function RunCard({ run, earlier, onRemoved }: Props) {
  const cache = useQueryClient();
  const [isAsked, setAsked] = useState(false);
  const path = { params: { path: { run_id: run.id } } };
  const refreshed = () => cache.invalidateQueries({ queryKey: ["runs", run.study_id] });
  const give = async (naming: { name?: string; note?: string }) => {
    unwrap<RunInfo>(await api.PATCH("/api/runs/{run_id}", { ...path, body: naming }));
    await refreshed();
  };
  const changed = useChanges(run.id, earlier?.id);
  const remove = async () => {
    const answer = await api.DELETE("/api/runs/{run_id}", path);
    if (answer.error) unwrap(answer);
    onRemoved();
    await refreshed();
  };
  return (
    <Section title="This run">
      <Field label="Called" wide value={run.name} placeholder={`run ${run.id}`} onCommit={(name) => give({ name })} />
      <Field label="Note" wide value={run.note} onCommit={(note) => give({ note })} />
      {earlier && changed.data && (
        <ul aria-label={`Other than in ${runName(earlier)}`} className="pt-1 text-[13px]">
          <li className="text-quiet">Since {runName(earlier)}:</li>
          {changed.data.length === 0 && <li>nothing has changed.</li>}
          {changed.data.map((sentence) => (
            <li key={sentence}>{inChosenUnits(sentence)}</li>
          ))}
        </ul>
      )}
      {isAsked ? (
        <p role="alert" className="flex gap-4 pt-1">
          Its results are lost then.
          <button type="button" className="text-vermilion hover:underline" onClick={() => tell(remove())}>
            Remove them
          </button>
          <button type="button" className="text-verdigris hover:underline" onClick={() => setAsked(false)}>
            Keep them
          </button>
        </p>
      ) : (
        <button type="button" className="pt-1 text-vermilion hover:underline" onClick={() => setAsked(true)}>
          Remove this run and its results
        </button>
      )}
    </Section>
  );
}

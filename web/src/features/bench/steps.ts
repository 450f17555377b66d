import type { PatchStep, StepUse, StudyDocument } from "@/api/client";

import { freeId, put } from "./edits";

/** What items say of single steps: values by step, and the steps in which they let go. */
type OfSteps = { released?: string[]; values?: object; courses?: object; preload?: object };

/** The edits that put a copy of a step after it, with all that holds, acts and is tightened in it. */
export function copyOfStep(study: StudyDocument, step: StepUse): { id: string; patch: PatchStep[] } {
  const id = freeId(step.id, study.steps);
  const at = (study.steps ?? []).findIndex((s) => s.id === step.id);
  const patch: PatchStep[] = [put(`/steps/${at + 1}`, { ...step, id, name: `${step.name}, again` })];
  for (const list of ["supports", "loads", "bolts", "pairs"] as const)
    (study[list] ?? []).forEach((item, i) => {
      const own = item as OfSteps;
      if (own.released?.includes(step.id)) patch.push(put(`/${list}/${i}/released/-`, id));
      for (const field of ["values", "courses", "preload"] as const) {
        const said = own[field] as Record<string, unknown> | undefined;
        if (said && step.id in said) patch.push(put(`/${list}/${i}/${field}/${id}`, said[step.id]));
      }
    });
  return { id, patch };
}

/** The edit that moves a step one place earlier (-1) or later (1); none where it would leave the sequence. */
export function movedStep(study: StudyDocument, step: StepUse, by: -1 | 1): PatchStep[] | undefined {
  const steps = study.steps ?? [];
  const at = steps.findIndex((s) => s.id === step.id);
  const to = at + by;
  if (to < 0 || to >= steps.length) return undefined;
  return [{ op: "remove", path: `/steps/${at}` }, put(`/steps/${to}`, step)];
}

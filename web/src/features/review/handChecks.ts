import { useQuery } from "@tanstack/react-query";

import { type HandCheck, type StudyDocument, api, unwrap } from "@/api/client";

import type { Shown } from "./fields";

/** Hand calculations at an increment of a run. */
export const useHandChecks = (runId: number | undefined, increment: number | undefined) =>
  useQuery({
    queryKey: ["checks", runId, increment],
    queryFn: async () =>
      unwrap<HandCheck[]>(
        await api.GET("/api/runs/{run_id}/checks", {
          params: { path: { run_id: runId ?? 0 }, query: { increment: increment ?? 0 } },
        }),
      ),
    enabled: runId !== undefined && increment !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[1] === runId ? before : undefined),
  });

/** Those of what is shown: a pair, with the joint that it is a piece of and its bolts, or a part, with those of its bolts. */
export function checksOf(study: StudyDocument, checks: HandCheck[], shown: Shown): HandCheck[] {
  const bolts = new Set(
    (study.bolts ?? []).filter((b) => shown.kind === "part" && b.part === shown.part).map((b) => b.id),
  );
  const joints = (study.joints ?? []).filter(
    (j) =>
      (shown.kind === "pair" && shown.pair in (j.pieces?.pairs ?? {})) ||
      Object.keys(j.pieces?.bolts ?? {}).some((b) => bolts.has(b)),
  );
  for (const joint of joints) Object.keys(joint.pieces?.bolts ?? {}).forEach((b) => bolts.add(b));
  const own = {
    pair: new Set(shown.kind === "pair" ? [shown.pair] : []),
    joint: new Set(joints.map((j) => j.id)),
    bolt: bolts,
    part: new Set(shown.kind === "part" && shown.part !== undefined ? [shown.part] : []),
  };
  return checks.filter((c) => own[c.kind].has(c.id));
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { tellProblem } from "@/ui/notices";

import { type RunInfo, type Settled, type SettleWanted, type StudyInfo, api, unwrap } from "./client";

/** Queue a run that settles the study. */
export function useSettle(study: number) {
  const cache = useQueryClient();
  return useMutation({
    // What was edited before is part of it.
    scope: { id: `study-${study}` },
    mutationFn: async (body: SettleWanted) =>
      unwrap<RunInfo>(
        await api.POST("/api/studies/{study_id}/settle", { params: { path: { study_id: study } }, body }),
      ),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
}

/** How far a run has settled its study; looked at again while it goes on. */
export const useSettled = (run: RunInfo | undefined, isActive: boolean) =>
  useQuery({
    queryKey: ["settled", run?.id, run?.status],
    queryFn: async () =>
      unwrap<Settled | null>(
        await api.GET("/api/runs/{run_id}/settled", { params: { path: { run_id: run?.id ?? 0 } } }),
      ),
    enabled: !!run?.settling && run.status !== "queued",
    refetchInterval: isActive ? 1500 : false,
  });

/** Make the mesh of the study as fine as a run found that it has to be. */
export function useKeepSizes(study: number) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `study-${study}` },
    mutationFn: async (runId: number) => {
      const base_revision = cache.getQueryData<StudyInfo>(["study", study])?.revision ?? 0;
      return unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/sizes", {
          params: { path: { study_id: study }, query: { base_revision } },
          body: { run_id: runId },
        }),
      );
    },
    onError: tellProblem,
    onSuccess: (info) => cache.setQueryData(["study", study], info),
  });
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { tellProblem } from "@/ui/notices";

import {
  type Findings,
  type InputInfo,
  type RunInfo,
  type SampleRow,
  type SeriesInfo,
  type SeriesUse,
  type StudyChange,
  type StudyInfo,
  type VariantInfo,
  api,
  unwrap,
} from "./client";
import { isActive } from "./hooks";

const LOOK = 1500;
const SOON = 200;

/** Series of a study that were run, the newest first; looked at again while one goes on. */
export const useSeriesRuns = (study: number) =>
  useQuery({
    queryKey: ["series", study],
    queryFn: async () =>
      unwrap<SeriesInfo[]>(await api.GET("/api/studies/{study_id}/series", { params: { path: { study_id: study } } })),
    refetchInterval: (query) => (query.state.data?.some((s) => s.status === "running") ? LOOK : false),
  });

/** What a series would vary on the study as it stands. */
export const useInputs = (study: number, revision: number, series: SeriesUse | undefined) =>
  useQuery({
    queryKey: ["inputs", study, revision, series],
    queryFn: async () =>
      unwrap<InputInfo[]>(
        await api.POST("/api/studies/{study_id}/inputs", { params: { path: { study_id: study } }, body: series! }),
      ),
    enabled: !!series?.inputs.length,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => before,
  });

const of = (series: number) => ({ params: { path: { series_id: series } } });

/** What a series has found with so many samples. */
export const useFindings = (series: number | undefined, done: number) =>
  useQuery({
    queryKey: ["findings", series, done],
    queryFn: async () => unwrap<Findings>(await api.GET("/api/series/{series_id}/findings", of(series ?? 0))),
    enabled: series !== undefined && done > 0,
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[1] === series ? before : undefined),
  });

/** Its samples with one measure. */
export const useSamples = (series: number | undefined, done: number, row: string, column: string) =>
  useQuery({
    queryKey: ["samples", series, done, row, column],
    queryFn: async () =>
      unwrap<SampleRow[]>(
        await api.GET("/api/series/{series_id}/samples", {
          params: { path: { series_id: series ?? 0 }, query: { row, column } },
        }),
      ),
    enabled: series !== undefined && done > 0,
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[1] === series ? before : undefined),
  });

/** Start, stop and go on with series; open and keep their samples. */
export function useSeriesActions(study: number) {
  const cache = useQueryClient();
  const seen = () => cache.invalidateQueries({ queryKey: ["series", study] });
  const scope = { id: `study-${study}` };
  const base = () => cache.getQueryData<StudyInfo>(["study", study])?.revision ?? 0;
  const start = useMutation({
    scope,
    mutationFn: async (key: string) =>
      unwrap<SeriesInfo>(
        await api.POST("/api/studies/{study_id}/series/{key}/start", { params: { path: { study_id: study, key } } }),
      ),
    onError: tellProblem,
    onSuccess: seen,
  });
  const stop = useMutation({
    mutationFn: async (series: number) =>
      unwrap<SeriesInfo>(await api.POST("/api/series/{series_id}/stop", of(series))),
    onError: tellProblem,
    onSuccess: seen,
  });
  const goOn = useMutation({
    mutationFn: async (series: number) =>
      unwrap<SeriesInfo>(await api.POST("/api/series/{series_id}/go-on", of(series))),
    onError: tellProblem,
    onSuccess: seen,
  });
  const open = useMutation({
    mutationFn: async ({ series, sample }: { series: number; sample: number }) =>
      unwrap<RunInfo>(
        await api.POST("/api/series/{series_id}/samples/{number}/run", {
          params: { path: { series_id: series, number: sample } },
        }),
      ),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
  const keep = useMutation({
    scope,
    mutationFn: async ({ series, sample, name }: { series: number; sample: number; name: string }) =>
      unwrap<StudyInfo>(
        await api.POST("/api/series/{series_id}/samples/{number}/variant", {
          params: { path: { series_id: series, number: sample }, query: { base_revision: base() } },
          body: { name, note: "" },
        }),
      ),
    onError: tellProblem,
    onSuccess: (info) => cache.setQueryData(["study", study], info),
  });
  return { start, stop, goOn, open, keep };
}

/** The variants of a study as it stands. */
export const useVariants = (study: number, revision: number, isAny: boolean) =>
  useQuery({
    queryKey: ["variants", study, revision],
    queryFn: async () =>
      unwrap<VariantInfo[]>(
        await api.GET("/api/studies/{study_id}/variants", { params: { path: { study_id: study } } }),
      ),
    enabled: isAny,
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[1] === study ? before : undefined),
  });

/** Queue a run of a variant. */
export function useRunVariant(study: number) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `study-${study}` },
    mutationFn: async (key: string) =>
      unwrap<RunInfo>(
        await api.POST("/api/studies/{study_id}/variants/{key}/run", { params: { path: { study_id: study, key } } }),
      ),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
}

/** Ask what a run would have come to with changes. */
export const useAskWhatIf = () =>
  useMutation({
    mutationFn: async ({ run, changes }: { run: number; changes: StudyChange[] }) =>
      unwrap<RunInfo>(
        await api.POST("/api/runs/{run_id}/what-if", { params: { path: { run_id: run } }, body: { changes } }),
      ),
    onError: tellProblem,
  });

/** A run that was asked for, looked at until it has ended. */
export const useAnswer = (run: number | undefined) =>
  useQuery({
    queryKey: ["answer", run],
    queryFn: async () =>
      unwrap<RunInfo>(await api.GET("/api/runs/{run_id}", { params: { path: { run_id: run ?? 0 } } })),
    enabled: run !== undefined,
    refetchInterval: (query) => (query.state.data && !isActive(query.state.data.status) ? false : SOON),
    retry: false,
  });

/** Keep what a run solved otherwise than the study stands as a variant of it. */
export function useKeepRun(study: number) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `study-${study}` },
    mutationFn: async ({ run, name }: { run: number; name: string }) => {
      const base_revision = cache.getQueryData<StudyInfo>(["study", study])?.revision ?? 0;
      return unwrap<StudyInfo>(
        await api.POST("/api/runs/{run_id}/variant", {
          params: { path: { run_id: run }, query: { base_revision } },
          body: { name, note: "" },
        }),
      );
    },
    onError: tellProblem,
    onSuccess: (info) => cache.setQueryData(["study", study], info),
  });
}

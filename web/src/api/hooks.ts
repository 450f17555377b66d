import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import {
  ApiProblem,
  type Copying,
  type Cutting,
  type Course,
  type Curve,
  type DemoInfo,
  type FaceInfo,
  type FileReplaced,
  type FileSolid,
  type FileUnit,
  type FileUse,
  type JointAsk,
  type JointInfo,
  type Health,
  type Ledger,
  type LoadUse,
  type Manner,
  type Material,
  type Measured,
  type MeshJob,
  type MeshReport,
  type PatchStep,
  type Preflight,
  type Reckoning,
  type RecipeInfo,
  type PlacedDimension,
  type RubberAsked,
  type RubberFound,
  type DrawnShape,
  type Drawing,
  type DrawingPlane,
  type RecipeUse,
  type PartUse,
  type RunInfo,
  type Sheet,
  type StepFile,
  type SolvedStudy,
  type StudyInfo,
  type StudySummary,
  type Suggestion,
  type Summary,
  type ToldEdit,
  type ThreadInfo,
  api,
  unwrap,
} from "./client";
import { fetchFloats, fetchScene } from "./sceneBlock";
import { isPlain, standsFor } from "./units";
import type { KindName } from "./vocabulary";
import { tellProblem } from "@/ui/notices";

/** Whether a query before was of the same study or run: only then may its answer stand while the next is fetched. */
const isOf = (owner: number | undefined, query: { queryKey: readonly unknown[] } | undefined) =>
  query?.queryKey[1] === owner;

const id = (value: number) => ({ params: { path: { study_id: value } } });
const run = (value: number) => ({ params: { path: { run_id: value } } });

export const useStudies = () =>
  useQuery({
    queryKey: ["studies"],
    queryFn: async () => unwrap<StudySummary[]>(await api.GET("/api/studies")),
    refetchInterval: 4000,
  });

/** How the server is: whether its queue, disk and database work. */
export const useHealth = () =>
  useQuery({
    queryKey: ["health"],
    queryFn: async () => unwrap<Health>(await api.GET("/api/health")),
    refetchInterval: 10_000,
  });

export const useDemos = () =>
  useQuery({
    queryKey: ["demos"],
    queryFn: async () => unwrap<DemoInfo[]>(await api.GET("/api/demos")),
    staleTime: Infinity,
  });

export const useRecipes = () =>
  useQuery({
    queryKey: ["recipes"],
    queryFn: async () => unwrap<RecipeInfo[]>(await api.GET("/api/recipes")),
    staleTime: Infinity,
  });

/** Generic materials to begin with. */
export const useGrades = () =>
  useQuery({
    queryKey: ["grades"],
    queryFn: async () => unwrap<Material[]>(await api.GET("/api/grades")),
    staleTime: Infinity,
  });

/** Materials of one's own, kept across studies; `keep` one, or `drop` the one of a name. */
export function useOwnMaterials() {
  const cache = useQueryClient();
  const onSuccess = () => cache.invalidateQueries({ queryKey: ["materials"] });
  const kept = useQuery({
    queryKey: ["materials"],
    queryFn: async () => unwrap<Material[]>(await api.GET("/api/materials")),
  });
  const keep = useMutation({
    mutationFn: async (body: Material) => unwrap(await api.PUT("/api/materials", { body })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: async (name: string) =>
      unwrap(await api.DELETE("/api/materials/{name}", { params: { path: { name } } })),
    onSuccess,
  });
  return { kept, keep, drop };
}

/** The skin of a part as a recipe makes it of the dimensions as written. */
export const usePreview = (kind: string, dimensions: Record<string, string>, section: boolean) =>
  useQuery({
    queryKey: ["preview", kind, dimensions, section],
    queryFn: () => {
      const written = encodeURIComponent(JSON.stringify(dimensions));
      return fetchScene(`/api/recipes/${kind}/preview?dimensions=${written}&section=${section}`);
    },
    staleTime: Infinity,
    retry: false,
  });

/** A drawing as far as it goes: its edges, dimensions and faults. */
export const useDrawing = (drawn: DrawnShape, dimensions: Record<string, string>) =>
  useQuery({
    queryKey: ["drawing", drawn, dimensions],
    queryFn: async () => unwrap<Drawing>(await api.POST("/api/drawings", { body: { drawn, dimensions } })),
    enabled: drawn.outlines.length > 0,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => (drawn.outlines.length ? before : undefined),
  });

/** Where a drawing on a plane or face comes to stand, and what it can be drawn by. */
export const useDrawingPlane = (study: number, revision: number, on: string | undefined) =>
  useQuery({
    queryKey: ["drawing-plane", study, revision, on],
    queryFn: async () =>
      unwrap<DrawingPlane>(
        await api.GET("/api/studies/{study_id}/drawing-plane", {
          params: { path: { study_id: study }, query: { on: on ?? "xy" } },
        }),
      ),
    enabled: on !== undefined,
    staleTime: Infinity,
    retry: false,
  });

/** The skin of a drawn part or bent bar. */
export const useShapePreview = (recipe: RecipeUse | undefined) =>
  useQuery({
    queryKey: ["shape-preview", recipe],
    queryFn: () => fetchScene("/api/parts/preview", recipe),
    enabled: !!recipe,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => before,
  });

/** What those dimensions of a part come to that are written as expressions. */
export const useDimensionValues = (study: number, part: PartUse) => {
  const dimensions = part.recipe.dimensions ?? {};
  return useQuery({
    queryKey: ["values", study, part.id, dimensions],
    queryFn: async () =>
      unwrap<Record<string, string>>(
        await api.GET("/api/studies/{study_id}/parts/{part_id}/values", {
          params: { path: { study_id: study, part_id: part.id } },
        }),
      ),
    enabled: Object.values(dimensions).some((d) => !isPlain(String(d))),
    staleTime: Infinity,
    retry: false,
  });
};

/** What the server makes of a file. */
async function sendFile<T>(path: string, content: Blob, asked: Record<string, string>): Promise<T> {
  const response = await fetch(`${path}?${new URLSearchParams(asked)}`, { method: "POST", body: content });
  const body: unknown = await response.json().catch(() => undefined);
  return unwrap<T>({ response, data: body, error: body });
}

/** The numbers of a sheet: a file, or what was pasted. */
export const useSheet = () =>
  useMutation({
    mutationFn: ({ content, name }: { content: Blob; name: string }) =>
      sendFile<Sheet>("/api/tables", content, { name }),
  });

type CurveAsked = { sheet: Sheet; strain: "total" | "plastic"; measure: "engineering" | "true"; young: string };

/** A sheet as a stress–strain curve. */
export const useCurve = (asked: CurveAsked | undefined) =>
  useQuery({
    queryKey: ["curve", asked],
    queryFn: async () => unwrap<Curve>(await api.POST("/api/tables/curve", { body: asked! })),
    enabled: !!asked,
    staleTime: Infinity,
    retry: false,
  });

/** A sheet as the test of a rubber, and the constants that come closest. */
export const useRubber = (asked: RubberAsked | undefined) =>
  useQuery({
    queryKey: ["rubber", asked],
    queryFn: async () => unwrap<RubberFound>(await api.POST("/api/tables/rubber", { body: asked! })),
    enabled: !!asked,
    staleTime: Infinity,
    retry: false,
  });

/** A sheet as the course of a load, in the unit that it is spoken in. */
export const useCourse = (kind: LoadUse["kind"]) =>
  useMutation({
    mutationFn: async (sheet: Sheet) => {
      const found = unwrap<Course>(await api.POST("/api/tables/course", { body: { sheet, kind } }));
      const { factor } = standsFor(found.unit);
      return found.points.map(([x, y]) => ({ x, y: Number((y * factor).toPrecision(6)) }));
    },
  });

/** What a STEP file holds, its numbers taken for a unit where one is given. */
export const useStepFile = () =>
  useMutation({
    mutationFn: ({ file, unit }: { file: File; unit?: FileUnit | undefined }) =>
      sendFile<StepFile>("/api/geometry", file, { name: file.name, ...(unit && { unit }) }),
  });

/** The skin of a solid of a file: as the part that it makes, or as it is drawn. */
export const useFilePreview = (name: string, index: number, solid: FileSolid | undefined) =>
  useQuery({
    queryKey: ["file-preview", name, index, solid?.volume],
    queryFn: () =>
      solid?.skin ? fetchScene(`/api/geometry/skins/${solid.skin}`) : fetchScene("/api/geometry/preview", solid?.part),
    enabled: !!(solid?.part ?? solid?.skin),
    staleTime: Infinity,
    retry: false,
  });

/** Faces of different parts within a distance and an angle, as written, of facing each other. */
export const useTouching = (study: number, revision: number, distance: string, angle: string) =>
  useQuery({
    queryKey: ["touching", study, revision, distance, angle],
    queryFn: async () =>
      unwrap<Suggestion[]>(
        await api.GET("/api/studies/{study_id}/touching", {
          params: { path: { study_id: study }, query: { distance, angle } },
        }),
      ),
    staleTime: Infinity,
    retry: false,
  });

export const useStudy = (study: number) =>
  useQuery({
    queryKey: ["study", study],
    queryFn: async () => unwrap<StudyInfo>(await api.GET("/api/studies/{study_id}", id(study))),
  });

export const usePreflight = (study: number, revision: number | undefined) =>
  useQuery({
    queryKey: ["preflight", study, revision],
    queryFn: async ({ signal }) =>
      unwrap<Preflight>(await api.GET("/api/studies/{study_id}/preflight", { ...id(study), signal })),
    enabled: revision !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
    retry: false,
  });

/** Figures of one face, or between two. */
export const useMeasured = (study: number, shape: string, faces: string[] | undefined) =>
  useQuery({
    queryKey: ["measured", study, shape, faces],
    queryFn: async () =>
      unwrap<Measured>(
        await api.GET("/api/studies/{study_id}/measure", {
          params: { path: { study_id: study }, query: { face: faces ?? [] } },
        }),
      ),
    enabled: !!faces?.length,
    staleTime: Infinity,
    retry: false,
  });

/** What formulas say of one face or two, under a force. */
export const useReckoned = (study: number, revision: number, faces: string[], force: string, mu: number) =>
  useQuery({
    queryKey: ["reckoned", study, revision, faces, force, mu],
    queryFn: async () =>
      unwrap<Reckoning[]>(
        await api.GET("/api/studies/{study_id}/reckoned", {
          params: { path: { study_id: study }, query: { face: faces, force, mu } },
        }),
      ),
    enabled: faces.length > 0,
    staleTime: Infinity,
    retry: false,
  });

/** A coarse metric thread and the proof load of a property class. */
export const useThread = (diameter: string | undefined, strength: string) =>
  useQuery({
    queryKey: ["thread", diameter, strength],
    queryFn: async () =>
      unwrap<ThreadInfo>(await api.GET("/api/threads", { params: { query: { diameter: diameter ?? "", strength } } })),
    enabled: diameter !== undefined,
    staleTime: Infinity,
    retry: false,
  });

/** Asks what a face is and where it stands. */
export const useFaceInfo = (study: number) =>
  useMutation({
    mutationFn: async (face: string) =>
      unwrap<FaceInfo>(
        await api.GET("/api/studies/{study_id}/face", { params: { path: { study_id: study }, query: { face } } }),
      ),
  });

/** The lengths of a part as they stand on a copy of it; `shape` changes with the part. */
export const useDimensions = (study: number, part: string | undefined, copy: number, shape: string) =>
  useQuery({
    queryKey: ["dimensions", study, part, copy, shape],
    queryFn: async () =>
      unwrap<PlacedDimension[]>(
        await api.GET("/api/studies/{study_id}/parts/{part_id}/dimensions", {
          params: { path: { study_id: study, part_id: part ?? "" }, query: { copy_number: copy } },
        }),
      ),
    enabled: part !== undefined,
    staleTime: Infinity,
  });

/** What picked faces would be joined as, and all that the joint would be made of. */
export const useBegunJoint = (study: number, revision: number, asked: { faces: string[]; kind?: string } | undefined) =>
  useQuery({
    queryKey: ["joint-begun", study, revision, asked],
    queryFn: async () =>
      unwrap<JointInfo>(await api.POST("/api/studies/{study_id}/joints/begin", { ...id(study), body: asked! })),
    enabled: !!asked?.faces.length,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

/** What a joint would be made of; raises why it cannot be. */
export const lookAtJoint = async (study: number, ask: JointAsk) =>
  unwrap<JointInfo>(await api.POST("/api/studies/{study_id}/joints/preview", { ...id(study), body: { ask } }));

export const useJointPreview = (study: number, revision: number, ask: JointAsk | undefined) =>
  useQuery({
    queryKey: ["joint-preview", study, revision, ask],
    queryFn: () => lookAtJoint(study, ask!),
    enabled: !!ask,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

/** The skins of a study with a joint that is not made yet. */
export const useJointScene = (study: number, revision: number, ask: JointAsk | undefined) =>
  useQuery({
    queryKey: ["joint-scene", study, revision, ask],
    queryFn: () => fetchScene(`/api/studies/${study}/joints/scene`, { ask }),
    enabled: !!ask,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

/** The skins of a study with the gap of a pair at the start, as drawn or as its fit counts it. */
export const useGapScene = (study: number, revision: number, pair: string | undefined, counted: boolean) =>
  useQuery({
    queryKey: ["gap", study, revision, pair, counted],
    queryFn: () => fetchScene(`/api/studies/${study}/pairs/${pair}/gap?counted=${counted}`),
    enabled: pair !== undefined,
    staleTime: Infinity,
    retry: false,
  });

/** What a joint of the study is made of, and its closed form. */
export const useJoint = (study: number, revision: number, joint: string) =>
  useQuery({
    queryKey: ["joint", study, revision, joint],
    queryFn: async () =>
      unwrap<JointInfo>(
        await api.GET("/api/studies/{study_id}/joints/{joint_id}", {
          params: { path: { study_id: study, joint_id: joint } },
        }),
      ),
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

/** Numbers and quality of the elements of every part. */
export const useMeshReport = (study: number, shape: string, isWanted: boolean) =>
  useQuery({
    queryKey: ["mesh", study, shape],
    queryFn: async () => unwrap<MeshReport>(await api.GET("/api/studies/{study_id}/mesh", id(study))),
    enabled: isWanted,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

/** What is being meshed now, while something waits for meshes. */
export const useMeshJobs = (isWaiting: boolean) =>
  useQuery({
    queryKey: ["mesh-jobs"],
    queryFn: async () => unwrap<MeshJob[]>(await api.GET("/api/meshing")),
    enabled: isWaiting,
    refetchInterval: 500,
  });

export const useStopMeshJob = () =>
  useMutation({
    mutationFn: async (job: number) =>
      unwrap<void>(await api.POST("/api/meshing/{job_id}/stop", { params: { path: { job_id: job } } })),
  });

/** Mesh again what was stopped. */
export function useMeshAgain() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async () => unwrap<void>(await api.POST("/api/meshing/again")),
    onSuccess: () =>
      Promise.all(["scene", "preflight", "mesh"].map((key) => cache.invalidateQueries({ queryKey: [key] }))),
  });
}

/** Skins of a study; `shape` changes only when geometry does, so that other edits keep the scene. */
export const useStudyScene = (study: number, shape: string | undefined) =>
  useQuery({
    queryKey: ["scene", study, shape],
    queryFn: () => fetchScene(`/api/studies/${study}/scene`),
    enabled: shape !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(study, query) ? before : undefined),
  });

export const useRuns = (study: number) =>
  useQuery({
    queryKey: ["runs", study],
    queryFn: async () => unwrap<RunInfo[]>(await api.GET("/api/studies/{study_id}/runs", id(study))),
    refetchInterval: (query) => (query.state.data?.some((r) => isActive(r.status)) ? 1000 : 5000),
  });

export const isActive = (status: string) => status === "queued" || status === "running";

export const useRunScene = (runId: number | undefined, ready: boolean) =>
  useQuery({
    queryKey: ["run-scene", runId],
    queryFn: () => fetchScene(`/api/runs/${runId}/scene`),
    enabled: runId !== undefined && ready,
    staleTime: Infinity,
  });

export const useLedger = (runId: number | undefined, increment: number | undefined) =>
  useQuery({
    queryKey: ["ledger", runId, increment],
    queryFn: async () =>
      unwrap<Ledger>(
        await api.GET("/api/runs/{run_id}/ledger", {
          params: { path: { run_id: runId ?? 0 }, query: { increment } },
        }),
      ),
    enabled: runId !== undefined && increment !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(runId, query) ? before : undefined),
  });

export const useRunDocument = (runId: number | undefined) =>
  useQuery({
    queryKey: ["run-document", runId],
    queryFn: async () => unwrap<SolvedStudy>(await api.GET("/api/runs/{run_id}/document", run(runId ?? 0))),
    enabled: runId !== undefined,
    staleTime: Infinity,
  });

export const useHistory = (runId: number | undefined, increments: number) =>
  useQuery({
    queryKey: ["history", runId, increments],
    queryFn: async () => unwrap<Summary[]>(await api.GET("/api/runs/{run_id}/history", run(runId ?? 0))),
    enabled: runId !== undefined && increments > 0,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(runId, query) ? before : undefined),
  });

/** A field of a run as float32, by the part of the address after `/increments/`. */
export const useField = (runId: number | undefined, path: string | undefined) =>
  useQuery({
    queryKey: ["field", runId, path],
    queryFn: () => fetchFloats(`/api/runs/${runId}/increments/${path}`),
    enabled: runId !== undefined && path !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (isOf(runId, query) ? before : undefined),
  });

/** Edit, undo and redo; each answers with the study as it then stands. */
export function useEdits(study: number) {
  const cache = useQueryClient();
  // One edit after another: each is made on the revision that the one before has left.
  const scope = { id: `study-${study}` };
  const keep = (info: StudyInfo) => cache.setQueryData(["study", study], info);
  // Somebody else has edited the study: show it as it stands, so that the edit can be made again.
  const onError = (error: Error) => {
    if (error instanceof ApiProblem && error.code === "conflict")
      return cache.invalidateQueries({ queryKey: ["study", study] });
  };
  // The revision when the edit's turn comes, not when it was asked for.
  const base = () => cache.getQueryData<StudyInfo>(["study", study])?.revision ?? 0;
  const at = () => ({ params: { path: { study_id: study }, query: { base_revision: base() } } });
  const edit = useMutation({
    scope,
    onError,
    mutationFn: async ({ patch, label }: { patch: PatchStep[]; label: string }) =>
      unwrap<StudyInfo>(
        await api.PATCH("/api/studies/{study_id}", { ...id(study), body: { base_revision: base(), label, patch } }),
      ),
    onSuccess: keep,
  });
  const redraw = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, ...body }: { part: string; recipe: RecipeUse; renamed: Record<string, string> }) =>
      unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/recipe", {
          params: { path: { study_id: study, part_id: part }, query: at().params.query },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const addPart = useMutation({
    scope,
    onError,
    mutationFn: async (body: {
      kind: string;
      dimensions?: Record<string, string>;
      file?: FileUse | null;
      recipe?: RecipeUse;
      on?: string | null;
      name?: string;
    }) =>
      unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/parts", { ...at(), body: { name: "Part", ...body } })),
    onSuccess: keep,
  });
  const replaceFile = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, file }: { part: string; file: FileUse }) =>
      unwrap<FileReplaced>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/file", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body: file,
        }),
      ),
    onSuccess: (done) => keep(done.study),
  });
  const mate = useMutation({
    scope,
    onError,
    mutationFn: async (body: { own: string; other: string; manner: Manner }) =>
      unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/mate", { ...at(), body })),
    onSuccess: keep,
  });
  const cut = useMutation({
    scope,
    onError,
    mutationFn: async (body: Cutting) =>
      unwrap<ToldEdit>(await api.POST("/api/studies/{study_id}/cut", { ...at(), body })),
    onSuccess: (done) => keep(done.study),
  });
  const dropFeatures = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, faces }: { part: string; faces: string[] }) =>
      unwrap<ToldEdit>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/drop-features", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body: { faces },
        }),
      ),
    onSuccess: (done) => keep(done.study),
  });
  const copyPart = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, ...body }: { part: string } & Copying) =>
      unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/copies", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const cutRegion = useMutation({
    scope,
    onError,
    mutationFn: async ({
      part,
      ...body
    }: {
      part: string;
      copy_number: number;
      face: string;
      at: [number, number, number];
    }) =>
      unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/region", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const refinePart = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, ...body }: { part: string; copy_number: number; at: [number, number, number] }) =>
      unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/finer", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const movePart = useMutation({
    scope,
    onError,
    mutationFn: async ({ part, ...body }: { part: string; copy_number: number; by: [number, number, number] }) =>
      unwrap<StudyInfo>(
        await api.POST("/api/studies/{study_id}/parts/{part_id}/move", {
          params: { path: { study_id: study, part_id: part }, query: { base_revision: base() } },
          body,
        }),
      ),
    onSuccess: keep,
  });
  const takeOut = useMutation({
    scope,
    onError,
    mutationFn: async (body: { kind: KindName; id: string; with_pieces?: boolean }) =>
      unwrap<ToldEdit>(
        await api.POST("/api/studies/{study_id}/take-out", { ...at(), body: { with_pieces: false, ...body } }),
      ),
    onSuccess: (done) => keep(done.study),
  });
  const makeJoint = useMutation({
    scope,
    onError,
    mutationFn: async (body: { ask: JointAsk; name?: string }) =>
      unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/joints", { ...at(), body })),
    onSuccess: keep,
  });
  const undo = useMutation({
    scope,
    mutationFn: async () => unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/undo", at())),
    onSuccess: keep,
    onError: (error) => {
      tellProblem(error);
      return onError(error);
    },
  });
  const redo = useMutation({
    scope,
    mutationFn: async () => unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/redo", at())),
    onSuccess: keep,
    onError: (error) => {
      tellProblem(error);
      return onError(error);
    },
  });
  return {
    edit,
    addPart,
    redraw,
    replaceFile,
    mate,
    cut,
    dropFeatures,
    copyPart,
    movePart,
    cutRegion,
    refinePart,
    takeOut,
    makeJoint,
    undo,
    redo,
  };
}

export function useStartRun(study: number) {
  const cache = useQueryClient();
  return useMutation({
    // What was edited before is part of the run.
    scope: { id: `study-${study}` },
    mutationFn: async () => unwrap<RunInfo>(await api.POST("/api/studies/{study_id}/runs", id(study))),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
}

export function useStopRun(study: number) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (runId: number) => unwrap<RunInfo>(await api.POST("/api/runs/{run_id}/stop", run(runId))),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
}

/** A run that goes on after the last increment of an earlier one. */
export function useResumeRun(study: number) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (runId: number) => unwrap<RunInfo>(await api.POST("/api/runs/{run_id}/resume", run(runId))),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["runs", study] }),
  });
}

export function useCreateStudy() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (body: { demo?: string; document?: Record<string, unknown> }) =>
      unwrap<StudyInfo>(await api.POST("/api/studies", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["studies"] }),
  });
}

export function useDuplicateStudy() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (study: number) =>
      unwrap<StudyInfo>(await api.POST("/api/studies/{study_id}/duplicate", id(study))),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["studies"] }),
  });
}

/** Another title for a study, made against the revision that the shelf shows. */
export function useRenameStudy() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async ({ study, revision, title }: { study: number; revision: number; title: string }) =>
      unwrap<StudyInfo>(
        await api.PATCH("/api/studies/{study_id}", {
          ...id(study),
          body: {
            base_revision: revision,
            label: "Title of the study",
            patch: [{ op: "replace", path: "/title", value: title }],
          },
        }),
      ),
    onSuccess: (info) => {
      cache.setQueryData(["study", info.id], info);
      return cache.invalidateQueries({ queryKey: ["studies"] });
    },
  });
}

export function useDeleteStudy() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (study: number) => unwrap<void>(await api.DELETE("/api/studies/{study_id}", id(study))),
    onError: tellProblem,
    onSuccess: () => cache.invalidateQueries({ queryKey: ["studies"] }),
  });
}

import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import {
  type HotSpot,
  type PathValues,
  type Resultant,
  type SingularLines,
  api,
  fetchBinary,
  unwrap,
} from "@/api/client";
import { type CutFace, readCut } from "@/api/sceneBlock";
import type { Vec } from "@/scene/drawSigns";
import type { Cut } from "@/scene/Stage3D";

import { type Shown, aboutOf } from "./fields";

/** How long a plane that is dragged stands still before the field on it is fetched. */
const SETTLES_MS = 60;

/** A value once it has stood still for a moment. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  const key = JSON.stringify(value);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(JSON.parse(key) as T), SETTLES_MS);
    return () => window.clearTimeout(timer);
  }, [key]);
  return settled;
}

/** What is drawn inside the parts: of a kind, by an order that has settled; what was drawn before stays while it changes. */
function useDrawnInside(
  kind: "cut" | "surface",
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  scale: number,
  wanted: object | undefined,
): CutFace | undefined {
  const settled = useSettled(wanted ?? null);
  const part = shown.kind === "part" ? shown.part : undefined;
  const about = aboutOf(shown);
  const isAsked = run !== undefined && increment !== undefined && shown.kind === "part" && !!wanted && !!settled;
  const found = useQuery({
    queryKey: [kind, run, increment, shown.field, part, scale, settled, about],
    queryFn: async () => {
      const order = { ...settled, field: shown.field, part: part ?? null, scale, about: about ?? null };
      return readCut(await fetchBinary(`/api/runs/${run}/increments/${increment}/${kind}`, order));
    },
    enabled: isAsked,
    staleTime: Infinity,
    gcTime: 20_000,
    // Another field or part would be coloured wrongly.
    placeholderData: (before, query) =>
      query?.queryKey[1] === run && query?.queryKey[3] === shown.field && query?.queryKey[4] === part
        ? before
        : undefined,
  });
  return isAsked ? found.data : undefined;
}

/** The field of parts on a plane cut, from the elements; values as stored. */
export const useCutFace = (
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  cut: Cut | undefined,
  scale: number,
) => useDrawnInside("cut", run, increment, shown, scale, cut && { normal: cut.slice(0, 3), offset: cut[3] });

/** The surface inside the parts on which a field has a value (as it is stored); values as stored. */
export const useSurface = (
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  level: number | undefined,
  scale: number,
) => useDrawnInside("surface", run, increment, shown, scale, level === undefined ? undefined : { level });

/** Force and moment over a face from the forces at its nodes: see the server's `Resultant`. */
export const useOverFace = (run: number | undefined, increment: number | undefined, face: string | undefined) =>
  useQuery({
    queryKey: ["over-face", run, increment, face],
    queryFn: async () =>
      unwrap<Resultant>(
        await api.POST("/api/runs/{run_id}/increments/{increment}/resultant", {
          params: { path: { run_id: run ?? 0, increment: increment ?? 0 } },
          body: { faces: [face ?? ""] },
        }),
      ),
    enabled: run !== undefined && increment !== undefined && face !== undefined,
    staleTime: Infinity,
    retry: false,
  });

/** A path: its corners (mm, before anything moved). */
export type PathEnds = Vec[];

export const usePath = (
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  ends: PathEnds | undefined,
) =>
  useQuery({
    queryKey: ["path", run, increment, shown.field, ends, aboutOf(shown)],
    queryFn: async () =>
      unwrap<PathValues>(
        await api.POST("/api/runs/{run_id}/increments/{increment}/path", {
          params: { path: { run_id: run ?? 0, increment: increment ?? 0 } },
          body: { points: ends ?? [], field: shown.field, samples: 301, about: aboutOf(shown) ?? null },
        }),
      ),
    enabled: run !== undefined && increment !== undefined && shown.kind === "part" && !!ends,
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => before,
  });

/** Separate hot spots of what is shown, the highest first; of parts only. */
export const useHotSpots = (run: number | undefined, increment: number | undefined, shown: Shown) =>
  useQuery({
    queryKey: ["hot-spots", run, increment, shown],
    queryFn: async () =>
      unwrap<HotSpot[]>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/hot-spots/{field}", {
          params: {
            path: { run_id: run ?? 0, increment: increment ?? 0, field: shown.field },
            query: {
              ...(shown.kind === "part" && shown.part !== undefined && { part: shown.part }),
              ...(aboutOf(shown) && { about: aboutOf(shown)! }),
            },
          },
        }),
      ),
    enabled: run !== undefined && increment !== undefined && shown.kind === "part",
    staleTime: Infinity,
  });

/** What passes through a cut: see the server's `Resultant`. */
export const useThrough = (
  run: number | undefined,
  increment: number | undefined,
  part: string | undefined,
  cut: Cut | undefined,
) => {
  const plane = useSettled(cut ?? null);
  return useQuery({
    queryKey: ["through", run, increment, part, plane],
    queryFn: async () => {
      const [x, y, z, offset] = plane ?? [0, 0, 1, 0];
      return unwrap<Resultant>(
        await api.POST("/api/runs/{run_id}/increments/{increment}/resultant", {
          params: { path: { run_id: run ?? 0, increment: increment ?? 0 } },
          body: { plane: { normal: [x, y, z], offset }, part: part ?? null, faces: [] },
        }),
      );
    },
    enabled: run !== undefined && increment !== undefined && part !== undefined && !!cut && !!plane,
    staleTime: Infinity,
    retry: false,
  });
};

/** Where stress of what is shown grows with every finer mesh; asked for when it is wanted. */
export const useSingular = (
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  scale: number,
  isWanted: boolean,
) =>
  useQuery({
    queryKey: ["singular", run, increment, shown.kind === "part" ? shown.part : undefined, scale],
    queryFn: async () =>
      unwrap<SingularLines[]>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/singular", {
          params: {
            path: { run_id: run ?? 0, increment: increment ?? 0 },
            query: { scale, ...(shown.kind === "part" && shown.part !== undefined && { part: shown.part }) },
          },
        }),
      ),
    enabled: isWanted && run !== undefined && increment !== undefined && shown.kind === "part",
    staleTime: Infinity,
    gcTime: 20_000,
  });

import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";

import { type Crosses, api, unwrap } from "@/api/client";
import { useField } from "@/api/hooks";
import { type SceneBlock, extentOf } from "@/api/sceneBlock";
import { type Strokes, arrows, crosses } from "@/scene/strokes";
import type { StageLook } from "@/scene/Stage3D";

import type { Shown } from "./fields";

type View = { block: SceneBlock; look: StageLook } | undefined;

/** The vector that says where what a field of a pair measures goes. */
export const vectorOf = (field: string) => (["sliding", "net_sliding"].includes(field) ? "slid" : "friction");

/** Of a pair its frictional stress or its net sliding as arrows, of parts the directions of principal stress as crosses, if they are wanted. */
export function useStrokes(
  run: number | undefined,
  increment: number | undefined,
  shown: Shown,
  view: View,
  isWanted: boolean,
): Strokes | undefined {
  const isAsked = isWanted && run !== undefined && increment !== undefined;
  const vectors = useField(
    run,
    isAsked && shown.kind === "pair" ? `${increment}/pairs/${shown.pair}/${vectorOf(shown.field)}` : undefined,
  ).data;
  const part = shown.kind === "part" ? shown.part : undefined;
  const scale = view?.look.scale ?? 1;
  const found = useQuery({
    queryKey: ["crosses", run, increment, part, scale],
    queryFn: async () =>
      unwrap<Crosses>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/crosses", {
          params: {
            path: { run_id: run ?? 0, increment: increment ?? 0 },
            query: { scale, ...(part !== undefined && { part }) },
          },
        }),
      ),
    enabled: isAsked && shown.kind === "part",
    staleTime: Infinity,
    gcTime: 20_000,
  }).data;
  return useMemo(() => {
    if (!isWanted || !view) return undefined;
    const size = extentOf(view.block);
    if (shown.kind === "part") return found && crosses(found, size);
    const patch = view.look.patch && view.block.patches[view.look.patch.index];
    if (!patch || !vectors || vectors.length !== patch.positions.length) return undefined;
    const { motion } = view.look.patch ?? {};
    const at = patch.positions.map((x, i) => x + scale * (motion?.[i] ?? 0));
    // The strip of a section has its nodes twice.
    const once = view.block.solid ? at.length / 2 : at.length;
    return arrows(at.subarray(0, once), vectors.subarray(0, once), size);
  }, [isWanted, view, shown.kind, found, vectors, scale]);
}

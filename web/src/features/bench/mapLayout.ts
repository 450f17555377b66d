import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { ELK, ElkExtendedEdge, ElkNode } from "elkjs";
import workerUrl from "elkjs/lib/elk-worker.min.js?url";

import type { JointGraph } from "./jointGraph";

type Point = { x: number; y: number };
/** A place on the map, by its top left corner, in pixels at full size. */
export type Box = Point & { width: number; height: number };
/** Places by key: `part/…`, `load/…`, `ground/…`, and of the names on a link `pairs/…`; lines by the same keys. */
export type MapLayout = Pick<Box, "width" | "height"> & {
  boxes: Record<string, Box>;
  lines: Record<string, Point[]>;
};

const OPTIONS = {
  "elk.algorithm": "layered",
  "elk.direction": "DOWN",
  "elk.edgeRouting": "ORTHOGONAL",
  "elk.spacing.nodeNode": "10",
  "elk.spacing.edgeNode": "10",
  "elk.layered.spacing.nodeNodeBetweenLayers": "22",
  "elk.layered.spacing.edgeNodeBetweenLayers": "12",
  "elk.layered.nodePlacement.strategy": "NETWORK_SIMPLEX",
  // Room for the names of joints above their parts.
  "elk.padding": "[top=20,left=12,bottom=12,right=12]",
};

const INLINE = { "elk.edgeLabels.inline": "true", "elk.edgeLabels.placement": "CENTER" };

/** Loads on top, then parts, what is nearer to the ground lower, each ground under its part; lines go round all of them. */
function wanted({ nodes, links, grounds, loads }: JointGraph): ElkNode {
  const sized = (id: string, { width, height }: { width: number; height: number }) => ({ id, width, height });
  const edge = (id: string, from: string, to: string, named?: { width: number; height: number }): ElkExtendedEdge => ({
    id,
    sources: [from],
    targets: [to],
    ...(named && { labels: [{ ...sized(`${id}/names`, named), text: " ", layoutOptions: INLINE }] }),
  });
  return {
    id: "map",
    layoutOptions: OPTIONS,
    children: [
      ...nodes.map((n) => sized(`part/${n.id}`, n)),
      ...loads.map((l) => sized(`load/${l.id}`, l)),
      ...grounds.map((g) => sized(`ground/${g.part}`, g)),
    ],
    edges: [
      ...links.map((l) => edge(`pairs/${l.key}`, `part/${l.upper}`, `part/${l.lower}`, l)),
      ...loads.map((l) => edge(`acts/${l.id}`, `load/${l.id}`, `part/${l.part}`)),
      ...grounds.map((g) => edge(`holds/${g.part}`, `part/${g.part}`, `ground/${g.part}`)),
    ],
  };
}

let engine: Promise<ELK> | undefined;

/** The layout engine, in a thread of its own (tests have none): sixty parts take it a moment. */
async function layoutEngine(): Promise<ELK> {
  if (import.meta.env.MODE === "test") return new (await import("elkjs/lib/elk.bundled.js")).default();
  const { default: Elk } = await import("elkjs/lib/elk-api.js");
  return new Elk({ workerUrl });
}

/** Places for all that is on the map, and lines between. */
export async function mapLayout(graph: JointGraph): Promise<MapLayout> {
  const laid = await (await (engine ??= layoutEngine())).layout(wanted(graph));
  const boxes: Record<string, Box> = {};
  const lines: Record<string, Point[]> = {};
  const put = (key: string, at: { x?: number; y?: number; width?: number; height?: number }) =>
    (boxes[key] = { x: at.x ?? 0, y: at.y ?? 0, width: at.width ?? 0, height: at.height ?? 0 });
  laid.children?.forEach((child) => put(child.id, child));
  laid.edges?.forEach((e) => {
    e.labels?.forEach((label) => put(e.id, label));
    lines[e.id] = (e.sections ?? []).flatMap((s) => [s.startPoint, ...(s.bendPoints ?? []), s.endPoint]);
  });
  return { width: laid.width ?? 0, height: laid.height ?? 0, boxes, lines };
}

/** The layout of a graph; while another is made, the one before. */
export function useMapLayout(graph: JointGraph): MapLayout | undefined {
  const asked = JSON.stringify(wanted(graph));
  const found = useQuery({
    queryKey: ["map", asked],
    queryFn: () => mapLayout(graph),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  return found.data;
}

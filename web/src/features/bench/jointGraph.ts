import type { PairUse, Preflight, StudyDocument } from "@/api/client";
import { length } from "@/ui/format";

export type MapNode = {
  id: string;
  name: string;
  detail: string;
  x: number;
  y: number;
  width: number;
  isBolt: boolean;
  isLoose: boolean;
  copies: number;
};
/** `labelY`: where the pairs of two parts of the column stand; `isAside`: the line goes round other parts. */
export type MapLink = { key: string; from: string; to: string; pairs: PairUse[]; labelY?: number; isAside?: boolean };
/** What holds a part from outside: supports, and pairs with datum walls. */
export type MapGround = { part: string; holds: { kind: "support" | "pair"; id: string; name: string }[] };
export type MapLoad = { id: string; name: string; part: string; text: string };
export type JointGraph = { nodes: MapNode[]; links: MapLink[]; grounds: MapGround[]; loads: MapLoad[]; height: number };

const owner = (reference: string) => (reference.split("/")[0] ?? "").split("#")[0] ?? "";

/** The assembly as a graph: parts in levels above the ground, bolts in a column of their own. */
export function jointGraph(
  study: StudyDocument,
  bricks: Record<string, number>,
  preflight: Preflight | undefined,
): JointGraph {
  const parts = study.parts ?? [];
  const bolted = new Set((study.bolts ?? []).map((b) => b.part));
  const links = linksOf(study.pairs ?? []);
  const level = levelsOf(study, links);
  const loose = new Set(
    (preflight?.findings ?? [])
      .filter((f) => f.code === "loose" || f.code === "unconnected")
      .map((f) => (f.body ?? "").split("#")[0]),
  );
  // Parts that are not bolts stand in one column, the farthest from the ground on top.
  const column = parts.filter((p) => !bolted.has(p.id)).sort((a, b) => (level.get(b.id) ?? 1) - (level.get(a.id) ?? 1));
  const grounds = groundsOf(study);
  const loads = (study.loads ?? []).map((l) => ({
    id: l.id,
    name: l.name,
    part: owner(facesOf(study, l)[0] ?? ""),
    text: Object.values(l.values ?? {}).at(-1) ?? "no value",
  }));
  const rows = rowsOf(
    column.map((p) => p.id),
    links,
    grounds,
    loads,
  );
  let boltIndex = 0;
  const nodes = parts.map((part): MapNode => {
    const isBolt = bolted.has(part.id);
    const material = study.materials?.find((m) => m.id === part.material)?.name ?? part.material;
    const count = Object.entries(bricks)
      .filter(([n]) => n.split("#")[0] === part.id)
      .reduce((sum, [, n]) => sum + n, 0);
    const detail = isBolt
      ? preloadText(study, part.id)
      : `${count ? `${count.toLocaleString("en").replace(",", " ")} elements` : material}`;
    const copies = part.placements?.length ?? 1;
    return {
      id: part.id,
      name: part.name,
      detail,
      isBolt,
      copies,
      isLoose: loose.has(part.id),
      width: isBolt ? 116 : 128,
      x: isBolt ? 148 : 10,
      y: isBolt ? TOP + boltIndex++ * 150 : (rows.get(part.id)?.y ?? TOP),
    };
  });
  const lowest = Math.max(TOP, ...nodes.filter((n) => !n.isBolt).map((n) => n.y));
  return {
    nodes,
    links: placed(
      links,
      column.map((p) => p.id),
      rows,
      boltIndex > 0,
    ),
    height: lowest + 130,
    grounds,
    loads,
  };
}

const TOP = 74;
const CHIP = 24;

const ROOM = { ground: 58, loads: 64, least: 110 };

/** Heights of the parts of the column, and of what joins each to the next: pairs, grounds and loads need room. */
function rowsOf(
  column: string[],
  links: MapLink[],
  grounds: MapGround[],
  loads: MapLoad[],
): Map<string, { y: number; pairsY: number }> {
  const found = new Map<string, { y: number; pairsY: number }>();
  let y = TOP;
  column.forEach((id, i) => {
    const next = column[i + 1];
    const chips =
      CHIP *
      (links.find((l) => (l.from === id && l.to === next) || (l.to === id && l.from === next))?.pairs.length ?? 0);
    const above = i < column.length - 1 && grounds.some((g) => g.part === id) ? ROOM.ground : 0;
    const below = chips && loads.some((l) => l.part === next) ? ROOM.loads : 0;
    const gap = Math.max(ROOM.least, above + chips + 36 + below);
    found.set(id, { y, pairsY: y + 42 + above + (gap - above - below) / 2 });
    y += 42 + gap;
  });
  return found;
}

/** Links with places for their pairs: between neighbours of the column, or on the side, below the bolts if there are any. */
function placed(
  links: MapLink[],
  column: string[],
  rows: Map<string, { y: number; pairsY: number }>,
  hasBolts: boolean,
): MapLink[] {
  let free = hasBolts ? TOP + 180 : TOP - 20;
  return links.map((link) => {
    const [i, j] = [column.indexOf(link.from), column.indexOf(link.to)];
    if (i < 0 || j < 0) return link;
    if (Math.abs(i - j) === 1) return { ...link, labelY: rows.get(column[Math.min(i, j)] ?? "")?.pairsY };
    const half = (link.pairs.length * CHIP) / 2;
    const middle = ((rows.get(link.from)?.y ?? 0) + (rows.get(link.to)?.y ?? 0)) / 2 + 21;
    const labelY = Math.max(middle, free + half);
    free = labelY + half;
    return { ...link, labelY, isAside: true };
  });
}

/** Faces that something acts on, its own or those of its handle. */
function facesOf(study: StudyDocument, item: { faces?: string[]; handle?: string | null }): string[] {
  return item.faces?.length ? item.faces : ((study.handles ?? []).find((h) => h.id === item.handle)?.faces ?? []);
}

function linksOf(pairs: PairUse[]): MapLink[] {
  const found = new Map<string, MapLink>();
  for (const pair of pairs.filter((p) => !p.wall)) {
    const [from, to] = [owner(pair.a[0] ?? ""), owner(pair.b[0] ?? "")].sort() as [string, string];
    const key = `${from}|${to}`;
    const link = found.get(key) ?? { key, from, to, pairs: [] };
    link.pairs.push(pair);
    found.set(key, link);
  }
  return [...found.values()];
}

function levelsOf(study: StudyDocument, links: MapLink[]): Map<string, number> {
  const level = new Map<string, number>();
  // A plane of symmetry passes through parts that stand on others: it is no ground to begin from.
  const grounds = (study.supports ?? []).filter((s) => s.kind !== "symmetry");
  let front = [...new Set(grounds.flatMap((s) => facesOf(study, s).map(owner)))];
  if (!front.length && study.parts?.[0]) front = [study.parts[0].id];
  for (let depth = 1; front.length; depth++) {
    for (const id of front) level.set(id, depth);
    front = links
      .flatMap((l) => (front.includes(l.from) ? [l.to] : front.includes(l.to) ? [l.from] : []))
      .filter((id, i, all) => !level.has(id) && all.indexOf(id) === i);
  }
  return level;
}

function groundsOf(study: StudyDocument): MapGround[] {
  const grounds = new Map<string, MapGround>();
  const add = (kind: "support" | "pair", item: { id: string; name: string }, faces: string[]) => {
    for (const part of new Set(faces.map(owner))) {
      const ground = grounds.get(part) ?? { part, holds: [] };
      ground.holds.push({ kind, id: item.id, name: item.name });
      grounds.set(part, ground);
    }
  };
  for (const support of study.supports ?? []) add("support", support, facesOf(study, support));
  const walled = (study.pairs ?? []).filter((p) => p.wall);
  for (const pair of walled) add("pair", pair, pair.a);
  const real = new Set(
    (study.supports ?? []).filter((s) => s.kind !== "symmetry").flatMap((s) => facesOf(study, s).map(owner)),
  );
  for (const pair of walled) pair.a.forEach((face) => real.add(owner(face)));
  return [...grounds.values()].filter((g) => real.has(g.part));
}

function preloadText(study: StudyDocument, part: string): string {
  const forces = (study.bolts ?? []).filter((b) => b.part === part).flatMap((b) => Object.values(b.preload ?? {}));
  return forces.length ? `preload ${forces.at(-1)}` : "not tightened";
}

/** Gaps below a tenth of a micrometre are touching (mm). */
const TOUCHING = 1e-4;

/** Starting gap or overlap of a pair in words. */
export function startText(gap: number | null | undefined): string {
  if (gap === undefined) return "";
  if (gap === null) return "not facing";
  if (Math.abs(gap) < TOUCHING) return "touching";
  return `${gap > 0 ? "gap" : "overlap"} ${length(Math.abs(gap), 2)}`;
}

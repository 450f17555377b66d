import type { PairUse, Preflight, StudyDocument } from "@/api/client";
import { length } from "@/api/units";

type Size = { width: number; height: number };
/** `state`: what preflight says of how the part is held, or that it is left out of the analysis. */
export type MapNode = Size & {
  id: string;
  name: string;
  detail: string;
  isBolt: boolean;
  copies: number;
  state: "held" | "loose" | "friction" | "asleep";
};
/** What joins two parts: a pair, or between their handles a link, a spring or a line bolt. */
export type MapJoin = { kind: "pair" | Line; id: string; name: string; text: string; isAsleep: boolean };
type Line = "link" | "spring" | "bolt";
/** All joins between two parts, or between copies of one: a line, with their names on it; `upper` is farther from the
 * ground than `lower`. The size is that of the names. */
export type MapLink = Size & { key: string; upper: string; lower: string; joins: MapJoin[] };
/** What holds a part from outside: supports, pairs with datum walls, springs and bolts into the ground. */
export type MapGround = Size & {
  part: string;
  holds: { kind: "support" | "pair" | Line; id: string; name: string }[];
};
export type MapLoad = Size & { id: string; name: string; part: string; text: string };
/** A joint on the map: the parts that it joins and those that it has made. */
export type MapFrame = { id: string; name: string; parts: string[]; made: string[] };
/** What is on the map, with sizes in pixels, but without places: see `mapLayout`. */
export type JointGraph = {
  nodes: MapNode[];
  links: MapLink[];
  grounds: MapGround[];
  loads: MapLoad[];
  frames: MapFrame[];
};

/** Heights of what stands on the map; a ground has its hatching above its names. */
const HEIGHT = { node: 42, chip: 24, load: 34, hatch: 20, hold: 18 };

const owner = (reference: string) => (reference.split("/")[0] ?? "").split("#")[0] ?? "";
/** What is told later, of meshes and by preflight, moves nothing: room is kept for it from the start. */
const [WIDEST_START, WIDEST_DETAIL] = ["gap 0.00 mm", 84];
/** About how wide texts are drawn, between bounds: longer ones are cut there. */
const widthOf = (texts: string[], size: number, [least, most]: [number, number]) =>
  Math.min(most, Math.max(least, ...texts.map((t) => 0.5 * size * t.length)));

/** The assembly as a graph of parts with what joins, holds and loads them. */
export function jointGraph(
  study: StudyDocument,
  bricks: Record<string, number>,
  preflight: Preflight | undefined,
  asleep: Record<string, string[]> = {},
): JointGraph {
  const ids = new Set((study.parts ?? []).map((p) => p.id));
  const states = statesOf(preflight, asleep);
  return {
    nodes: (study.parts ?? []).map((part) => ({
      ...nodeOf(study, part, bricks),
      state: states.get(part.id) ?? ("held" as const),
    })),
    frames: framesOf(study, ids),
    links: linksOf(study, preflight, asleep).filter((l) => ids.has(l.upper) && ids.has(l.lower)),
    grounds: groundsOf(study)
      .filter((g) => ids.has(g.part))
      .map(({ part, holds }) => ({
        part,
        holds,
        width:
          12 +
          widthOf(
            holds.map((h) => h.name),
            12.5,
            [64, 130],
          ),
        height: HEIGHT.hatch + HEIGHT.hold * holds.length,
      })),
    loads: (study.loads ?? []).flatMap(({ id, name, values, ...load }) => {
      const part = owner(facesOf(study, load)[0] ?? "");
      const text = Object.values(values ?? {}).at(-1) ?? "no value";
      const size = { width: 12 + widthOf([name, text], 13, [40, 110]), height: HEIGHT.load };
      return ids.has(part) ? [{ id, name, part, text, ...size }] : [];
    }),
  };
}

function framesOf(study: StudyDocument, ids: Set<string>): MapFrame[] {
  return (study.joints ?? []).map(({ id, name, ask, pieces }) => {
    const made = Object.keys(pieces?.parts ?? {}).filter((part) => ids.has(part));
    const picked = Object.values(ask as Record<string, unknown>).flatMap((v) =>
      Array.isArray(v) ? (v as unknown[]) : [v],
    );
    const joined = picked.flatMap((v) => (typeof v === "string" && v.includes("/") ? [owner(v)] : []));
    return { id, name, made, parts: [...new Set([...joined.filter((part) => ids.has(part)), ...made])] };
  });
}

/** What preflight says of how each part is held; what is left out is not asked. */
function statesOf(preflight: Preflight | undefined, asleep: Record<string, string[]>): Map<string, MapNode["state"]> {
  const states = new Map<string, MapNode["state"]>();
  const say = (state: MapNode["state"], codes: string[]) =>
    preflight?.findings
      .filter((f) => codes.includes(f.code))
      .forEach((f) => states.set((f.body ?? "").split("#")[0] ?? "", state));
  say("friction", ["friction-only"]);
  say("loose", ["loose", "unconnected", "apart-loose"]);
  asleep.part?.forEach((id) => states.set(id, "asleep"));
  return states;
}

function nodeOf(
  study: StudyDocument,
  part: NonNullable<StudyDocument["parts"]>[number],
  bricks: Record<string, number>,
) {
  const isBolt = (study.bolts ?? []).some((b) => b.part === part.id);
  const material = study.materials?.find((m) => m.id === part.material)?.name ?? part.material;
  const count = Object.entries(bricks)
    .filter(([n]) => n.split("#")[0] === part.id)
    .reduce((sum, [, n]) => sum + n, 0);
  const elements = count ? `${count.toLocaleString("en").replace(",", " ")} elements` : material;
  const [copies, detail] = [part.placements?.length ?? 1, isBolt ? preloadText(study, part.id) : elements];
  const width = 40 + widthOf([copies > 1 ? `${part.name} ×${copies}` : part.name], 13, [WIDEST_DETAIL, 130]);
  return { id: part.id, name: part.name, isBolt, copies, detail, width, height: HEIGHT.node };
}

/** Faces that something acts on, its own or those of its handle. */
function facesOf(study: StudyDocument, item: { faces?: string[]; handle?: string | null }): string[] {
  return item.faces?.length ? item.faces : ((study.handles ?? []).find((h) => h.id === item.handle)?.faces ?? []);
}

/** Links, springs and line bolts with the faces that their ends lead; no `b` is the ground. */
function linesOf(study: StudyDocument) {
  const faces = (handle: string | null | undefined) => {
    const found = (study.handles ?? []).find((h) => h.id === handle);
    return found?.part ? [found.part] : (found?.faces ?? []);
  };
  return [
    ...(study.links ?? []).map((l) => ({ ...l, kind: "link" as const, text: l.kind })),
    ...(study.springs ?? []).map((s) => ({ kind: "spring" as const, ...s, text: "spring" })),
    ...(study.bolts ?? []).flatMap(({ line, ...b }) =>
      line ? [{ kind: "bolt" as const, ...b, a: line.head, b: line.foot, text: "line bolt" }] : [],
    ),
  ].map(({ kind, id, name, text, a, b }) => ({ kind, id, name, text, a: faces(a), b: b ? faces(b) : undefined }));
}

function linksOf(study: StudyDocument, preflight: Preflight | undefined, asleep: Record<string, string[]>): MapLink[] {
  const starts = new Map((preflight?.pairs ?? []).map((p) => [p.id, p.gap]));
  const found = new Map<string, { ends: [string, string]; joins: (MapJoin & { room: string })[] }>();
  const add = (a: string | undefined, b: string | undefined, join: Omit<MapJoin, "isAsleep"> & { room: string }) => {
    const ends = [owner(a ?? ""), owner(b ?? "")].sort() as [string, string];
    const link = found.get(ends.join("|")) ?? { ends, joins: [] };
    link.joins.push({ ...join, isAsleep: asleep[join.kind]?.includes(join.id) ?? false });
    found.set(ends.join("|"), link);
  };
  for (const pair of (study.pairs ?? []).filter((p) => !p.wall)) {
    const start = asleep.pair?.includes(pair.id) ? "asleep" : startText(starts.get(pair.id)) || "…";
    const law = lawText(pair);
    add(pair.a[0], pair.b[0], { kind: "pair", id: pair.id, name: pair.name, text: `${law} · ${start}`, room: `${law} · ${WIDEST_START}` }); // prettier-ignore
  }
  for (const { a, b, text, ...line } of linesOf(study)) {
    if (b) add(a[0], b[0], { ...line, text, room: text });
  }
  const level = levelsOf(
    study,
    [...found.values()].map((l) => l.ends),
  );
  const height = (id: string) => level.get(id) ?? Infinity;
  return [...found].map(([key, { ends, joins }]) => {
    const [upper, lower] = height(ends[0]) >= height(ends[1]) ? ends : [ends[1], ends[0]];
    const width = 20 + widthOf(joins.map((j) => j.room), 12, [40, 150]); // prettier-ignore
    return {
      key,
      upper,
      lower,
      joins: joins.map(({ room: _, ...join }) => join),
      width,
      height: HEIGHT.chip * joins.length,
    };
  });
}

/** Laws by their names. */
export const LAWS: Record<string, Pick<PairUse["law"], "may_open" | "may_slide">> = {
  friction: { may_open: true, may_slide: "friction" },
  smooth: { may_open: true, may_slide: "freely" },
  grip: { may_open: true, may_slide: "no" },
  captive: { may_open: false, may_slide: "freely" },
  tied: { may_open: false, may_slide: "no" },
};

/** What a pair may do, in a word. */
export function lawText({ law }: PairUse): string {
  if (law.may_slide === "friction") return `µ ${law.mu}`;
  const named = Object.entries(LAWS).find(([, l]) => l.may_open === law.may_open && l.may_slide === law.may_slide);
  return named?.[0] ?? "";
}

function levelsOf(study: StudyDocument, links: [string, string][]): Map<string, number> {
  const level = new Map<string, number>();
  // A plane of symmetry passes through parts that stand on others: it is no ground to begin from.
  const grounds = (study.supports ?? []).filter((s) => s.kind !== "symmetry");
  let front = [...new Set(grounds.flatMap((s) => facesOf(study, s).map(owner)))];
  if (!front.length && study.parts?.[0]) front = [study.parts[0].id];
  for (let depth = 1; front.length; depth++) {
    for (const id of front) level.set(id, depth);
    front = links
      .flatMap(([one, other]) => (front.includes(one) ? [other] : front.includes(other) ? [one] : []))
      .filter((id, i, all) => !level.has(id) && all.indexOf(id) === i);
  }
  return level;
}

function groundsOf(study: StudyDocument): Pick<MapGround, "part" | "holds">[] {
  const grounds = new Map<string, Pick<MapGround, "part" | "holds">>();
  const add = (kind: MapGround["holds"][number]["kind"], item: { id: string; name: string }, faces: string[]) => {
    for (const part of new Set(faces.map(owner))) {
      const ground = grounds.get(part) ?? { part, holds: [] };
      ground.holds.push({ kind, id: item.id, name: item.name });
      grounds.set(part, ground);
    }
  };
  for (const support of study.supports ?? []) add("support", support, facesOf(study, support));
  const toGround = linesOf(study).filter((l) => !l.b);
  for (const line of toGround) add(line.kind, line, line.a);
  const walled = (study.pairs ?? []).filter((p) => p.wall);
  for (const pair of walled) add("pair", pair, pair.a);
  const real = new Set(
    (study.supports ?? []).filter((s) => s.kind !== "symmetry").flatMap((s) => facesOf(study, s).map(owner)),
  );
  for (const { a } of [...walled, ...toGround]) a.forEach((face) => real.add(owner(face)));
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

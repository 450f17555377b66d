import type { DrawnEdge, DrawnOutline, DrawnShape, Drawing } from "@/api/client";

export type Point = readonly [number, number];
/** A corner of a ring that is being drawn, and how the edge to it goes. */
export type Corner = { at: Point; arc?: { turns: "left" | "right"; radius: number } };
export type Tool = "choose" | "ring" | "circle" | "box";
/** What is chosen of a drawing: an outline, or an edge of it (counted from 0). */
export type Chosen = { outline: number; edge?: number } | undefined;

/** Planes of the study that can be drawn on. */
export const PLANES = [
  { value: "xy", label: "the plane x, y" },
  { value: "yz", label: "the plane y, z" },
  { value: "zx", label: "the plane z, x" },
];

/** Dimensions of a part as entries. */
export const entriesOf = (dimensions: Record<string, string | number> | undefined): Record<string, string> =>
  Object.fromEntries(Object.entries(dimensions ?? {}).map(([name, value]) => [name, String(value)]));

/** Names in which face names go on: letters, digits, dots and dashes. */
export const asName = (text: string) =>
  text
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9.-]+/g, "-")
    .replace(/^[.-]+|[.-]+$/g, "");

/** A length as documents have it, without rounding noise. */
export const written = (mm: number) => `${Number(mm.toFixed(6)) + 0} mm`;
const at = (p: Point): [string, string] => [written(p[0]), written(p[1])];

/** The first of `stem.1`, `stem.2` … that is no name yet. */
export function freeNames(stem: string, shape: DrawnShape, count: number): string[] {
  const taken = new Set(shape.outlines.flatMap((o) => [o.name, ...(o.edges ?? []).map((e) => e.name)]));
  const found: string[] = [];
  for (let n = 1; found.length < count; n++) if (!taken.has(`${stem}.${n}`)) found.push(`${stem}.${n}`);
  return found;
}

/** A name for another outline: holes are counted, the first is the body. */
function outlineName(shape: DrawnShape, takesOut: boolean): string {
  const stem = takesOut ? "hole" : "body";
  const taken = new Set(shape.outlines.map((o) => o.name));
  if (!takesOut && !taken.has(stem)) return stem;
  let n = takesOut ? 1 : 2;
  while (taken.has(`${stem}.${n}`)) n++;
  return `${stem}.${n}`;
}

/** The drawing with another outline, which the last layer takes in. */
function withOutline(shape: DrawnShape, outline: DrawnOutline): DrawnShape {
  const layers = (shape.layers ?? []).map((la, i, all) =>
    i === all.length - 1 || outline.takes_out ? { ...la, outlines: [...la.outlines, outline.name] } : la,
  );
  return { ...shape, outlines: [...shape.outlines, outline], layers };
}

/** A ring through corners, of which the last goes back to the first. */
export function withRing(shape: DrawnShape, corners: readonly Corner[], takesOut: boolean): DrawnShape {
  const names = freeNames("edge", shape, corners.length);
  const ring = [...corners.slice(1), corners[0]!];
  const edges = ring.map((corner, i): DrawnEdge => {
    const { arc } = corner;
    const bow = arc ? { arc: { radius: written(arc.radius), turns: arc.turns, is_long: false } } : {};
    return { name: names[i]!, to: at(corner.at), ...bow };
  });
  return withOutline(shape, { name: outlineName(shape, takesOut), takes_out: takesOut, edges });
}

export function withBox(shape: DrawnShape, a: Point, b: Point, takesOut: boolean): DrawnShape {
  const [left, right] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
  const [low, high] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
  const corners: Point[] = [
    [left, low],
    [right, low],
    [right, high],
    [left, high],
  ];
  return withRing(
    shape,
    corners.map((at) => ({ at })),
    takesOut,
  );
}

export function withCircle(shape: DrawnShape, centre: Point, diameter: number, takesOut: boolean): DrawnShape {
  const circle = { centre: at(centre), diameter: written(diameter) };
  return withOutline(shape, { name: outlineName(shape, takesOut), takes_out: takesOut, edges: [], circle });
}

const withOutlineAt = (shape: DrawnShape, index: number, to: DrawnOutline): DrawnShape => {
  const was = shape.outlines[index]?.name;
  const layers = (shape.layers ?? []).map((la) => ({
    ...la,
    outlines: la.outlines.map((name) => (name === was ? to.name : name)),
  }));
  return { ...shape, outlines: shape.outlines.map((o, i) => (i === index ? to : o)), layers };
};

export function withOutlineChanged(shape: DrawnShape, index: number, change: Partial<DrawnOutline>): DrawnShape {
  const outline = shape.outlines[index];
  return outline ? withOutlineAt(shape, index, { ...outline, ...change }) : shape;
}

export function withoutOutline(shape: DrawnShape, index: number): DrawnShape {
  const name = shape.outlines[index]?.name;
  const layers = (shape.layers ?? []).map((la) => ({ ...la, outlines: la.outlines.filter((o) => o !== name) }));
  return { ...shape, outlines: shape.outlines.filter((_, i) => i !== index), layers };
}

export function withEdgeChanged(shape: DrawnShape, { outline, edge }: Where, change: Partial<DrawnEdge>): DrawnShape {
  const edges = shape.outlines[outline]?.edges ?? [];
  return withOutlineChanged(shape, outline, { edges: edges.map((e, i) => (i === edge ? { ...e, ...change } : e)) });
}

type Where = { outline: number; edge: number };

/** An edge in two, at its middle. */
export function withEdgeSplit(shape: DrawnShape, where: Where, middle: Point): DrawnShape {
  const edges = shape.outlines[where.outline]?.edges ?? [];
  const edge = edges[where.edge];
  if (!edge) return shape;
  const [name] = freeNames("edge", shape, 1);
  const first: DrawnEdge = { ...edge, to: at(middle), corner: null };
  const short = edge.arc ? { arc: { ...edge.arc, is_long: false } } : {};
  const both = [
    { ...first, ...short },
    { ...edge, name: name!, ...short },
  ];
  return withOutlineChanged(shape, where.outline, {
    edges: [...edges.slice(0, where.edge), ...both, ...edges.slice(where.edge + 1)],
  });
}

/** The ring without an edge: the one after it begins where it began. */
export function withoutEdge(shape: DrawnShape, where: Where): DrawnShape {
  const edges = shape.outlines[where.outline]?.edges ?? [];
  return edges.length < 3
    ? shape
    : withOutlineChanged(shape, where.outline, { edges: edges.filter((_, i) => i !== where.edge) });
}

/** Old names of edges and circles to those they have now, by their place; only where as many are there. */
export function renamed(before: DrawnShape, now: DrawnShape): Record<string, string> {
  const found: Record<string, string> = {};
  before.outlines.forEach((outline, i) => {
    const other = now.outlines[i];
    if (!other || (outline.edges ?? []).length !== (other.edges ?? []).length) return;
    if (outline.circle && other.circle && outline.name !== other.name) found[outline.name] = other.name;
    (outline.edges ?? []).forEach((edge, k) => {
      const to = other.edges?.[k]?.name;
      if (to !== undefined && to !== edge.name) found[edge.name] = to;
    });
  });
  return found;
}

/** Corners of a drawing: where its edges end, and middles of its circles. */
export function placesOf(drawing: Drawing | undefined): Point[] {
  const ends = (drawing?.edges ?? []).map((e) => e.points.at(-1)).filter((p): p is [number, number] => !!p);
  return [[0, 0], ...ends];
}

export type Snapped = { at: Point; by: "place" | "line" | "grid" };

/**
 * Where a pointer is meant to be: at a place within reach, in line with others it goes on from, or on the grid; all
 * in mm.
 */
export function snapped(
  p: Point,
  reach: number,
  grid: number,
  places: readonly Point[],
  lines: readonly Point[],
): Snapped {
  const near = places
    .map((q) => ({ q, away: Math.hypot(q[0] - p[0], q[1] - p[1]) }))
    .sort((a, b) => a.away - b.away)[0];
  if (near && near.away < reach) return { at: near.q, by: "place" };
  const round = (v: number) => Number((Math.round(v / grid) * grid).toFixed(9));
  const inLine = (axis: 0 | 1) => lines.map((q) => q[axis]).find((v) => Math.abs(v - p[axis]) < reach);
  const [x, y] = [inLine(0), inLine(1)];
  return { at: [x ?? round(p[0]), y ?? round(p[1])], by: x === undefined && y === undefined ? "grid" : "line" };
}

/** A round step of which at most `count` fit into a width (mm). */
export function gridFor(width: number, count: number): number {
  const rough = width / count;
  const power = 10 ** Math.floor(Math.log10(rough));
  return power * ([1, 2, 5, 10].find((m) => m * power >= rough) ?? 10);
}

/** Points along an arc from `a` to `b`, for what is not traced yet; straight where it cannot be. */
export function bow(a: Point, b: Point, arc: Corner["arc"]): Point[] {
  const chord = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (!arc || chord === 0 || arc.radius < chord / 2) return [a, b];
  const away = Math.sqrt(arc.radius ** 2 - chord ** 2 / 4) * (arc.turns === "left" ? 1 : -1);
  const [dx, dy] = [(b[0] - a[0]) / chord, (b[1] - a[1]) / chord];
  const [cx, cy] = [(a[0] + b[0]) / 2 - away * dy, (a[1] + b[1]) / 2 + away * dx];
  const from = Math.atan2(a[1] - cy, a[0] - cx);
  const half = 2 * Math.asin(Math.min(1, chord / 2 / arc.radius)) * (arc.turns === "left" ? 1 : -1);
  return Array.from({ length: 25 }, (_, i) => {
    const angle = from + (half * i) / 24;
    return [cx + arc.radius * Math.cos(angle), cy + arc.radius * Math.sin(angle)] as const;
  });
}

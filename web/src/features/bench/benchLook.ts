import type { StudyDocument } from "@/api/client";
import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import { partOf } from "@/features/items";
import { partsSelected, type Selected, type Sight, type Swing } from "@/features/selection";
import type { StageLook } from "@/scene/Stage3D";
import { partColour } from "@/scene/ramp";
import { COLOURS } from "@/ui/colours";

const VERDIGRIS = COLOURS.verdigrisMid;
const VERDIGRIS_PALE = COLOURS.verdigrisSoft;
const COPPER = COLOURS.copperMid;
const STONE = COLOURS.stone;

/** Body and face of every copy that a reference means. */
export function spread(reference: string, block: SceneBlock): { body: string; face: string }[] {
  const [owner = "", face = ""] = reference.split("/");
  return block.bodies
    .filter((b) => b.name === owner || (!owner.includes("#") && partOf(b.name) === owner))
    .map((b) => ({ body: b.name, face }));
}

/** Colours of the bodies of a scene, by the order of their parts. */
export function bodyColours(study: StudyDocument, block: SceneBlock): string[] {
  const bolted = new Set((study.bolts ?? []).map((b) => b.part));
  return block.bodies.map((b) => {
    const index = (study.parts ?? []).findIndex((p) => p.id === partOf(b.name));
    return partColour(Math.max(index, 0), bolted.has(partOf(b.name)));
  });
}

/** Two sets of faces (references) that are looked at for a moment, whatever is selected; through the parts or on them. */
export type Peek = { a: string[]; b: string[]; isOnParts?: boolean };

/** `asleep`: parts that are left out of the analysis, seen through. `fresh`: bodies that would be made. */
type Options = {
  showMesh?: boolean;
  sight?: Record<string, Sight>;
  peek?: Peek;
  asleep?: string[];
  swing?: Swing;
  fresh?: string[] | undefined;
};

/** How far a loose part swings, as a share of the size of all. */
const SWING = 0.05;

/** How the stage shows the selection: its faces coloured, covered ones made visible by ghosting. */
export function benchLook(
  study: StudyDocument,
  block: SceneBlock,
  selected: Selected,
  { showMesh = false, sight = {}, peek, asleep = [], swing, fresh = [] }: Options = {},
): StageLook {
  const highlights: StageLook["highlights"] = [];
  const mark = (references: string[] | undefined, colour: string, lift = 1) =>
    (references ?? []).forEach((r) => spread(r, block).forEach((f) => highlights.push({ ...f, colour, lift })));
  const colours = bodyColours(study, block);
  block.bodies.forEach((b, i) => fresh.includes(b.name) && (colours[i] = COPPER));
  let ghosted: (body: string) => boolean = () => false;
  const find = <T extends { id: string }>(list: T[] | undefined) => list?.find((item) => item.id === selected.id);
  const pair = peek ?? (selected.kind === "pair" ? find(study.pairs) : undefined);
  if (pair) {
    mark(pair.b, VERDIGRIS_PALE);
    mark(pair.a, VERDIGRIS, 2);
    ghosted = () => !peek?.isOnParts;
  } else if (selected.kind === "load") mark(find(study.loads)?.faces, COPPER);
  else if (selected.kind === "support") mark(find(study.supports)?.faces, STONE);
  else if (selected.kind === "handle") mark(find(study.handles)?.faces, STONE);
  else if (selected.kind === "wall")
    (study.pairs ?? []).filter((p) => p.wall === selected.id).forEach((p) => mark(p.a, VERDIGRIS));
  else if (selected.kind === "bolt") {
    const part = find(study.bolts)?.part;
    ghosted = (body) => partOf(body) !== part;
  } else if (selected.kind === "part") {
    if (selected.face) mark([`${selected.id}${selected.copy ? `#${selected.copy}` : ""}/${selected.face}`], VERDIGRIS);
    else {
      const isMeant = (name: string) =>
        selected.copy ? name === `${selected.id}#${selected.copy}` : partsSelected(selected).includes(partOf(name));
      block.bodies.forEach((b, i) => isMeant(b.name) && (colours[i] = VERDIGRIS_PALE));
    }
  }
  return {
    colours,
    looks: block.bodies.map(
      ({ name }) => sight[partOf(name)] ?? (ghosted(name) || asleep.includes(partOf(name)) ? "ghost" : "solid"),
    ),
    highlights,
    showMesh,
    scale: swing ? 0 : 1,
    ...(swing && {
      motion: block.bodies.map((b) => (b.name === swing.body ? swung(b, swing, sizeOf(block)) : undefined)),
    }),
  };
}

/** Least and largest coordinates of some bodies. */
function boxOf(bodies: BodySkin[]): { low: number[]; high: number[] } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of bodies) {
    positions.forEach((c, i) => {
      low[i % 3] = Math.min(low[i % 3] ?? c, c);
      high[i % 3] = Math.max(high[i % 3] ?? c, c);
    });
  }
  return { low, high };
}

function sizeOf(block: SceneBlock): number {
  const { low, high } = boxOf(block.bodies);
  return Math.hypot(...high.map((h, i) => h - (low[i] ?? 0)));
}

/** The rigid motion of a body at its vertices, turned about its middle and scaled to be seen. */
export function swung(body: BodySkin, { motion }: Swing, size: number): Float32Array {
  const [u = 0, v = 0, w = 0, p = 0, q = 0, r = 0] = motion;
  const { low, high } = boxOf([body]);
  const [cx = 0, cy = 0, cz = 0] = low.map((l, i) => (l + (high[i] ?? l)) / 2);
  const moved = new Float32Array(body.positions.length);
  let largest = 0;
  for (let i = 0; i < moved.length; i += 3) {
    const [x, y, z] = [
      (body.positions[i] ?? 0) - cx,
      (body.positions[i + 1] ?? 0) - cy,
      (body.positions[i + 2] ?? 0) - cz,
    ];
    const at = [u + q * z - r * y, v + r * x - p * z, w + p * y - q * x] as const;
    moved.set(at, i);
    largest = Math.max(largest, Math.hypot(...at));
  }
  return moved.map((c) => (c * SWING * size) / (largest || 1));
}

/** Faces of one body that continue each other: the edges between them bend by less than `degrees`. */
export function smoothFaces(block: SceneBlock, name: string, face: string, degrees: number): string[] {
  const body = block.bodies.find((b) => b.name === name);
  if (!body) return [face];
  // Both triangles of every edge between two faces, and whether they bend there.
  const edges = new Map<string, { face: number; normal: Normal }>();
  const continues = body.faces.map(() => new Set<number>());
  for (let t = 0; t < body.triangleFace.length; t++) {
    const corners = [...body.triangles.subarray(3 * t, 3 * t + 3)];
    const here = { face: body.triangleFace[t] ?? 0, normal: normalOf(body, corners) };
    corners.forEach((a, i) => {
      const b = corners[(i + 1) % 3] ?? a;
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      const there = edges.get(key);
      if (!there) return edges.set(key, here);
      if (there.face === here.face || angleOf(there.normal, here.normal) > degrees) return;
      continues[there.face]?.add(here.face);
      continues[here.face]?.add(there.face);
    });
  }
  const found = new Set([body.faces.indexOf(face)]);
  // What is added while the set is walked is walked too.
  for (const at of found) continues[at]?.forEach((next) => found.add(next));
  return [...found].map((f) => body.faces[f] ?? face);
}

type Normal = readonly [number, number, number];

function normalOf({ positions }: BodySkin, [a = 0, b = 0, c = 0]: number[]): Normal {
  const side = (from: number, to: number) =>
    [0, 1, 2].map((i) => (positions[3 * to + i] ?? 0) - (positions[3 * from + i] ?? 0));
  const [[ux = 0, uy = 0, uz = 0], [vx = 0, vy = 0, vz = 0]] = [side(a, b), side(a, c)];
  const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
  const size = Math.hypot(...n) || 1;
  return [n[0] / size, n[1] / size, n[2] / size];
}

const angleOf = (a: Normal, b: Normal) =>
  (180 / Math.PI) * Math.acos(Math.min(1, Math.max(-1, a[0] * b[0] + a[1] * b[1] + a[2] * b[2])));

/** Names of the faces that meet a face of a part in an edge: they share two corners or more. */
export function neighbours(block: SceneBlock | undefined, part: string, face: string): string[] {
  const body = block?.bodies.find((b) => partOf(b.name) === part);
  if (!body) return [];
  const own = body.faces.indexOf(face);
  const corners = new Set<number>();
  body.triangleFace.forEach(
    (f, t) => f === own && body.triangles.subarray(3 * t, 3 * t + 3).forEach((v) => corners.add(v)),
  );
  const shared = body.faces.map(() => new Set<number>());
  body.triangleFace.forEach(
    (f, t) =>
      f !== own && body.triangles.subarray(3 * t, 3 * t + 3).forEach((v) => corners.has(v) && shared[f]?.add(v)),
  );
  return body.faces.filter((_, f) => (shared[f]?.size ?? 0) > 1);
}

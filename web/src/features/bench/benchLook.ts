import type { StudyDocument } from "@/api/client";
import type { SceneBlock } from "@/api/sceneBlock";
import type { Selected, Sight } from "@/features/selection";
import type { StageLook } from "@/scene/Stage3D";
import { partColour } from "@/scene/ramp";
import { COLOURS } from "@/ui/colours";

const VERDIGRIS = COLOURS.verdigrisMid;
const VERDIGRIS_PALE = COLOURS.verdigrisSoft;
const COPPER = COLOURS.copperMid;
const STONE = COLOURS.stone;

const partOf = (body: string) => body.split("#")[0] ?? "";

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

/** `asleep`: parts that are left out of the analysis, seen through. */
type Options = { showMesh?: boolean; sight?: Record<string, Sight>; peek?: Peek; asleep?: string[] };

/** How the stage shows the selection: its faces coloured, covered ones made visible by ghosting. */
export function benchLook(
  study: StudyDocument,
  block: SceneBlock,
  selected: Selected,
  { showMesh = false, sight = {}, peek, asleep = [] }: Options = {},
): StageLook {
  const highlights: StageLook["highlights"] = [];
  const mark = (references: string[] | undefined, colour: string, lift = 1) =>
    (references ?? []).forEach((r) => spread(r, block).forEach((f) => highlights.push({ ...f, colour, lift })));
  const colours = bodyColours(study, block);
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
        selected.copy ? name === `${selected.id}#${selected.copy}` : partOf(name) === selected.id;
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
    scale: 1,
  };
}

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

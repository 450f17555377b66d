import { fetchBinary } from "./client";

/** `rims`: edges of a plane section, pairs of vertices, and the faces they are; solids have none. */
export type BodySkin = {
  name: string;
  faces: string[];
  positions: Float32Array;
  triangles: Uint32Array;
  triangleFace: Uint32Array;
  features: Uint32Array;
  edges: Uint32Array;
  rims: Uint32Array;
  rimFace: Uint32Array;
};

/** `values`: what the pair starts with at its nodes, where a scene has that. */
export type PairPatch = { pair: string; positions: Float32Array; triangles: Uint32Array; values?: Float32Array };

/** A cut through parts, where they are drawn. */
export type CutFace = { positions: Float32Array; values: Float32Array; triangles: Uint32Array };

/** Why a part could not be meshed. */
export type MeshProblem = { code: string; message: string; where: string; hint: string };

/** What a section is of: turned about the y axis, or so deep (mm). */
export type SolidOf = { is_turned: boolean; depth: number };

/** `solid`: of results of a section. */
export type SceneBlock = {
  bodies: BodySkin[];
  patches: PairPatch[];
  bricks: Record<string, number>;
  problems: MeshProblem[];
  solid?: SolidOf;
};

type Entry = { kind: "float32" | "uint32"; offset: number; length: number };
type Header = {
  bodies: { name: string; faces: string[] }[];
  pairs?: string[];
  bricks?: Record<string, number>;
  problems?: MeshProblem[];
  solid?: SolidOf | null;
  arrays: Record<string, Entry>;
};

/** A block's header, and its arrays by name (see the server's `pack`): header length, JSON header, then the arrays. */
function openBlock<Head extends { arrays: Record<string, Entry> }>(buffer: ArrayBuffer) {
  const size = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size))) as Head;
  const entry = (name: string): Entry => {
    const found = header.arrays[name];
    if (!found) throw new Error(`The scene has no array '${name}'.`);
    return found;
  };
  const floats = (name: string) => new Float32Array(buffer, 4 + size + entry(name).offset, entry(name).length);
  const integers = (name: string) => new Uint32Array(buffer, 4 + size + entry(name).offset, entry(name).length);
  return { header, floats, integers };
}

/** A field on a plane cut: values as they are stored. */
export function readCut(buffer: ArrayBuffer): CutFace {
  const { floats, integers } = openBlock(buffer);
  return { positions: floats("positions"), values: floats("values"), triangles: integers("triangles") };
}

/** Take a scene block apart. */
export function readScene(buffer: ArrayBuffer): SceneBlock {
  const { header, floats, integers } = openBlock<Header>(buffer);
  return {
    bodies: header.bodies.map((body, i) => ({
      ...body,
      positions: floats(`positions${i}`),
      triangles: integers(`triangles${i}`),
      triangleFace: integers(`face${i}`),
      features: integers(`features${i}`),
      edges: integers(`edges${i}`),
      rims: integers(`rims${i}`),
      rimFace: integers(`rimface${i}`),
    })),
    patches: (header.pairs ?? []).map((pair, i) => ({
      pair,
      positions: floats(`pair${i}_positions`),
      triangles: integers(`pair${i}_triangles`),
      ...(header.arrays[`pair${i}_values`] && { values: floats(`pair${i}_values`) }),
    })),
    bricks: header.bricks ?? {},
    problems: header.problems ?? [],
    ...(header.solid && { solid: header.solid }),
  };
}

/** A scene block; `body`, where given, is sent as JSON. */
export async function fetchScene(path: string, body?: unknown): Promise<SceneBlock> {
  return readScene(await fetchBinary(path, body));
}

export async function fetchFloats(path: string): Promise<Float32Array> {
  return new Float32Array(await fetchBinary(path));
}

/** The box round everything in a scene: its least and its largest x, y, z (mm). */
export function boxOf({ bodies }: Pick<SceneBlock, "bodies">): { low: number[]; high: number[] } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of bodies)
    positions.forEach((x, i) => {
      low[i % 3] = Math.min(low[i % 3]!, x);
      high[i % 3] = Math.max(high[i % 3]!, x);
    });
  return { low, high };
}

/** The largest measure of what is in a scene (mm). */
export function extentOf(block: Pick<SceneBlock, "bodies">): number {
  const { low, high } = boxOf(block);
  return Math.max(...high.map((h, k) => h - low[k]!));
}

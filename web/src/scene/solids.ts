import { type BodySkin, type SceneBlock, type SolidOf, extentOf } from "@/api/sceneBlock";

/** What of a turn is shown, and in how many flat pieces; the rest is the opening. */
const TURN = (3 / 2) * Math.PI;
const PIECES = 72;

/** A section as the solid that it is of; `spread` gives values or vectors at its vertices from those of the section. */
export type Solid = {
  block: SceneBlock;
  spread: (body: number, values: Float32Array, width: 1 | 3) => Float32Array;
};

/** Where a copy of the section stands: turned about y, or moved along z. */
type Place = { cos: number; sin: number; z: number };

/** Swept through its thickness (no deeper than the section is wide), or turned about the axis with an opening. */
export function solidOf(block: SceneBlock, { is_turned, depth }: SolidOf): Solid {
  const places = is_turned ? turns() : ends(Math.min(depth, extentOf(block)));
  const made = block.bodies.map((body) => solidBody(body, places));
  return {
    block: { bodies: made.map((m) => m.skin), patches: block.patches, bricks: block.bricks, problems: block.problems },
    spread: (body, values, width) => made[body]?.spread(values, width) ?? values,
  };
}

const turns = (): Place[] =>
  Array.from({ length: PIECES + 1 }, (_, k) => {
    // Away from who looks at the section, so that the opening is in front of it.
    const angle = -(k / PIECES) * TURN;
    return { cos: Math.cos(angle), sin: Math.sin(angle), z: 0 };
  });

/** The section itself is the front: what is marked on it stays there. */
const ends = (depth: number): Place[] => [0, -depth].map((z) => ({ cos: 1, sin: 0, z }));

function solidBody(section: BodySkin, places: Place[]) {
  const count = section.positions.length / 3;
  // The section itself at both ends, and its outline at every place between them.
  const ends = [places[0]!, places.at(-1)!];
  const from: number[] = [];
  const at: Place[] = [];
  const copy = (vertex: number, place: Place) => at.push(place) && from.push(vertex) - 1;
  for (const place of ends) for (let v = 0; v < count; v++) copy(v, place);
  const triangles: number[] = [...section.triangles];
  for (let t = 0; t < section.triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => count + section.triangles[t + k]!);
    triangles.push(a!, c!, b!);
  }
  const owner = new Array<number>(triangles.length / 3).fill(section.faces.length);
  // The sharp edges of a section are its outline.
  const outline = section.features;
  const rims = outline.length / 2;
  let before: number[] = [];
  places.forEach((place, k) => {
    const ring: number[] = [];
    for (let r = 0; r < 2 * rims; r++) ring.push(copy(outline[r]!, place));
    if (k > 0)
      for (let r = 0; r < rims; r++) {
        const [a, b, c, d] = [before[2 * r]!, before[2 * r + 1]!, ring[2 * r + 1]!, ring[2 * r]!];
        triangles.push(a, c, b, a, d, c);
        owner.push(section.faces.length, section.faces.length);
      }
    before = ring;
  });
  const spread = (values: Float32Array, width: 1 | 3) => {
    const out = new Float32Array(from.length * width);
    from.forEach((vertex, i) => {
      if (width === 1) return (out[i] = values[vertex]!);
      const [x, y, z] = [0, 1, 2].map((k) => values[3 * vertex + k]!) as [number, number, number];
      const { cos, sin } = at[i]!;
      out.set([cos * x - sin * z, y, sin * x + cos * z], 3 * i);
    });
    return out;
  };
  const positions = spread(section.positions, 3);
  at.forEach((place, i) => (positions[3 * i + 2]! += place.z));
  const skin: BodySkin = {
    ...section,
    positions,
    triangles: new Uint32Array(triangles),
    triangleFace: new Uint32Array(owner),
    features: new Uint32Array([...section.features, ...section.features.map((v) => v + count)]),
    edges: new Uint32Array(0),
    rims: new Uint32Array(0),
    rimFace: new Uint32Array(0),
  };
  return { skin, spread };
}

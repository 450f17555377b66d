import * as THREE from "three";

import { COLOURS } from "@/ui/colours";

import type { Vec } from "./drawSigns";

/** Short lines over the parts, and the colour of each. */
export type Strokes = { lines: [Vec, Vec][]; colours: string[] };

/** How long the largest is drawn, as a share of the size of all; heads of arrows are so long and so wide of theirs. */
const LONGEST = 0.07;
const HEAD = 0.28;
/** What is so much smaller than the largest is left out. */
const LEAST = 0.03;

/** Arrows of vectors at points. */
export function arrows(at: Float32Array, vectors: Float32Array, size: number): Strokes {
  const strokes: Strokes = { lines: [], colours: [] };
  const points = at.length / 3;
  let most = 0;
  for (let i = 0; i < points; i++) most = Math.max(most, vectorAt(vectors, i).length());
  for (let i = 0; i < points; i++) {
    const vector = vectorAt(vectors, i);
    if (!(vector.length() > LEAST * most)) continue;
    const along = vector.multiplyScalar((LONGEST * size) / most);
    const [start, tip] = [vectorAt(at, i), vectorAt(at, i).add(along)];
    const across = new THREE.Vector3(0.3, 0.5, 0.81).cross(along).setLength(HEAD * 0.4 * along.length());
    const back = tip.clone().addScaledVector(along, -HEAD);
    for (const [a, b] of [
      [start, tip],
      [tip, back.clone().add(across)],
      [tip, back.clone().sub(across)],
    ] as const) {
      strokes.lines.push([a.toArray(), b.toArray()]);
      strokes.colours.push(COLOURS.ink);
    }
  }
  return strokes;
}

/** Principal stresses as crosses: along each direction as long as the stress is high, pulled and pressed in two colours. */
export function crosses(
  found: { at: number[][]; values: number[][]; directions: number[][][] },
  size: number,
): Strokes {
  const strokes: Strokes = { lines: [], colours: [] };
  const most = Math.max(...found.values.flat().map(Math.abs), 1e-300);
  found.at.forEach((place, i) => {
    found.values[i]!.forEach((value, k) => {
      if (Math.abs(value) < LEAST * most) return;
      const half = ((LONGEST / 2) * size * Math.abs(value)) / most;
      const [from, to] = [-1, 1].map(
        (sign) => place.map((x, d) => x + sign * half * found.directions[i]![k]![d]!) as Vec,
      );
      strokes.lines.push([from!, to!]);
      strokes.colours.push(value > 0 ? COLOURS.verdigris : COLOURS.copper);
    });
  });
  return strokes;
}

const vectorAt = (values: Float32Array, i: number) => new THREE.Vector3().fromArray(values, 3 * i);

/** The strokes as one object, drawn over everything. */
export function strokeObject({ lines, colours }: Strokes): THREE.LineSegments {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(lines.flat(2)), 3));
  const tints = colours.flatMap((colour) => {
    const tint = new THREE.Color().setStyle(colour, THREE.LinearSRGBColorSpace).toArray();
    return [...tint, ...tint];
  });
  geometry.setAttribute("color", new THREE.BufferAttribute(new Float32Array(tints), 3));
  const material = new THREE.LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true });
  const drawn = new THREE.LineSegments(geometry, material);
  drawn.renderOrder = 60;
  return drawn;
}

import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";

import { COLOURS } from "@/ui/colours";

export type Vec = [number, number, number];
/** A sign on the stage: lines (mm), heads of arrows, and a name that stands at a point. */
export type Sign = {
  id: string;
  text: string;
  tone: "load" | "hold" | "tight";
  at: Vec;
  lines: Vec[][];
  heads: { tip: Vec; along: Vec }[];
};

export const SIGN_COLOURS: Record<Sign["tone"], string> = {
  load: COLOURS.ink,
  hold: COLOURS.quiet,
  tight: COLOURS.copper,
};
const WIDTH = 1.8;
/** Length of an arrow's head, as a share of the size of all, and its breadth to its length. */
const HEAD = 0.025;
const SLENDER = 0.32;

/** Objects that draw signs, seen through whatever lies before them; `size`: that of all parts (mm). */
export function drawSigns(signs: Sign[], size: number): THREE.Group {
  const group = new THREE.Group();
  for (const [tone, colour] of Object.entries(SIGN_COLOURS)) {
    // As it shall appear: the stage converts no colours.
    const color = new THREE.Color().setStyle(colour, THREE.LinearSRGBColorSpace);
    const own = signs.filter((s) => s.tone === tone);
    const ends = own.flatMap((s) => s.lines.flatMap((line) => line.slice(1).flatMap((p, i) => [line[i] ?? p, p])));
    if (ends.length) {
      const material = new LineMaterial({ linewidth: WIDTH, depthTest: false, transparent: true });
      material.color.copy(color);
      const lines = new LineSegments2(new LineSegmentsGeometry().setPositions(ends.flat()), material);
      lines.renderOrder = 1000;
      group.add(lines);
    }
    const length = HEAD * size;
    for (const { tip, along } of own.flatMap((s) => s.heads)) {
      const material = new THREE.MeshBasicMaterial({ color, depthTest: false, transparent: true });
      const cone = new THREE.Mesh(new THREE.ConeGeometry(SLENDER * length, length, 16), material);
      const direction = new THREE.Vector3(...along);
      cone.quaternion.setFromUnitVectors(new THREE.Vector3(0, 1, 0), direction);
      cone.position.set(...tip).addScaledVector(direction, -length / 2);
      cone.renderOrder = 1000;
      group.add(cone);
    }
  }
  return group;
}

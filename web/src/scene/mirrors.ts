import * as THREE from "three";

import { type SceneBlock, boxOf } from "@/api/sceneBlock";

import type { Vec } from "./drawSigns";

/** Which of the planes x, y, z = 0 are mirrors. */
export type Mirrors = readonly [boolean, boolean, boolean];

/** A sector of so many about the axis x, y or z (0, 1, 2) of the study. */
export type Ring = { axis: number; count: number };

/** Signs of the axes for every image in so many mirrors, itself first. */
export function signsIn(mirrors: Mirrors = [false, false, false]): Vec[] {
  const all: Vec[] = [[1, 1, 1]];
  mirrors.forEach((isOn, axis) => {
    if (isOn) all.push(...all.map((signs) => signs.map((s, k) => (k === axis ? -s : s)) as Vec));
  });
  return all;
}

/** How every other image comes from what is there: mirrored, then turned about the axis of a ring. */
export function imagesIn(mirrors?: Mirrors, ring?: Ring): THREE.Matrix4[] {
  const all = signsIn(mirrors).map((signs) => new THREE.Matrix4().makeScale(...signs));
  if (!ring) return all.slice(1);
  const axis = new THREE.Vector3().setComponent(ring.axis, 1);
  return Array.from({ length: ring.count }, (_, k) =>
    new THREE.Matrix4().makeRotationAxis(axis, (2 * Math.PI * k) / ring.count),
  )
    .flatMap((turn) => all.map((image) => turn.clone().multiply(image)))
    .slice(1);
}

/** Planes x, y, z = 0 that nothing drawn crosses: it may be half of something. */
export function halvesOf(block: SceneBlock): Mirrors {
  const { low, high } = boxOf(block);
  const isHalf = (k: number) => {
    const least = 1e-4 * (high[k]! - low[k]!);
    const touches = Math.abs(low[k]!) <= least || Math.abs(high[k]!) <= least;
    return touches && high[k]! > low[k]! + 1e-9;
  };
  return [isHalf(0), isHalf(1), isHalf(2)];
}

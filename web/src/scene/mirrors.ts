import { type SceneBlock, boxOf } from "@/api/sceneBlock";

import type { Vec } from "./drawSigns";

/** Which of the planes x, y, z = 0 are mirrors. */
export type Mirrors = readonly [boolean, boolean, boolean];

/** Signs of the axes for every image in so many mirrors. */
export function imagesIn(mirrors: Mirrors = [false, false, false]): Vec[] {
  const all: Vec[] = [[1, 1, 1]];
  mirrors.forEach((isOn, axis) => {
    if (isOn) all.push(...all.map((signs) => signs.map((s, k) => (k === axis ? -s : s)) as Vec));
  });
  return all.slice(1);
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

import { expect, test } from "vitest";

import { imagesIn } from "@/scene/mirrors";
import { asLog, shareIn, valueIn } from "@/scene/ramp";
import { type Acting, componentsIn, withImages } from "./resultants";

const close = (found: readonly number[], wanted: number[]) =>
  found.forEach((v, k) => expect(v).toBeCloseTo(wanted[k]!, 9));

test("what acts on half of something is told of the whole: along the mirror twice, across it not at all", () => {
  const half: Acting = { force: [3, 5, -2], moment: [10, 20, 30], about: [4, 1, 0] };
  const whole = withImages(half, [true, false, false]);
  close(whole.force, [0, 10, -4]);
  expect(whole.about).toEqual([0, 1, 0]);
  // By hand, about (0, 1, 0): the half has M + (4, 0, 0) × F = (10, 20 + 8, 30 + 20); of the image x stays, y and z turn.
  close(whole.moment, [20, 0, 0]);
  const alone = withImages(half, [false, false, false]);
  expect(alone).toEqual(half);
  // Two mirrors leave what points along both planes.
  close(withImages(half, [true, true, false]).force, [0, 0, -8]);
});

test("components about an axis are radial, hoop and axial there", () => {
  const about = [1, 0, 0, 0, 0, 1];
  close(componentsIn([0, 2, 7], [3, 0, 5], about), [0, 2, 7]);
  close(componentsIn([0, 2, 7], [1, 4, 5], about), [2, 0, 7]);
  const onAxis = componentsIn([3, 4, 7], [1, 0, 9], about);
  expect(Math.hypot(onAxis[0], onAxis[1])).toBeCloseTo(5);
  expect(componentsIn([1, 2, 3], [0, 0, 0], undefined)).toEqual([1, 2, 3]);
});

test("a sector turns about its axis, with its mirror images, each place once", () => {
  const images = imagesIn([false, true, false], { axis: 2, count: 3 });
  expect(images).toHaveLength(5);
  const places = images.map((m) => [m.elements[0], m.elements[1]].map((c) => c.toFixed(4)).join());
  expect(new Set(places).size).toBe(3);
  expect(images.filter((m) => m.determinant() < 0)).toHaveLength(3);
});

test("colours by powers of ten begin above nothing and run evenly by them", () => {
  const span = asLog({ low: 0, high: 500 });
  expect(span).toEqual({ low: 0.05, high: 500, isLog: true });
  expect(shareIn(span, 5)).toBeCloseTo(0.5);
  expect(shareIn(span, 0)).toBe(0);
  expect(valueIn(span, 0.25)).toBeCloseTo(0.5);
  expect(shareIn({ low: 0, high: 500 }, 125)).toBe(0.25);
});

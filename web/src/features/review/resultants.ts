import { type Mirrors, signsIn } from "@/scene/mirrors";
import type { Vec } from "@/scene/drawSigns";

/** Force (N) and its moment (N·mm) about a point (mm). */
export type Acting = { force: Vec; moment: Vec; about: Vec };

const add = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const times = (a: Vec, s: Vec): Vec => [a[0] * s[0], a[1] * s[1], a[2] * s[2]];
const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/**
 * What acts together with its images in planes x, y, z = 0, about the point moved into these planes: moments are mirrored
 * as what turns is.
 */
export function withImages({ force, moment, about }: Acting, mirrors: Mirrors): Acting {
  const middle = about.map((c, k) => (mirrors[k] ? 0 : c)) as Vec;
  let whole: Acting = { force: [0, 0, 0], moment: [0, 0, 0], about: middle };
  for (const signs of signsIn(mirrors)) {
    const turned = signs[0] * signs[1] * signs[2];
    const own = times(force, signs);
    const arm = times(about, signs).map((c, k) => c - middle[k]!) as Vec;
    const mirrored = times(moment, signs).map((c) => c * turned) as Vec;
    whole = { ...whole, force: add(whole.force, own), moment: add(whole.moment, add(mirrored, cross(arm, own))) };
  }
  return whole;
}

/** Axes that components are told in: those of the study, or radial, hoop and axial about an axis (a point, a direction). */
export type InAxes = number[] | undefined;

/** Components of a vector at a place in axes; on the axis itself radial is any direction across. */
export function componentsIn(vector: Vec, at: Vec, about: InAxes): Vec {
  if (!about) return vector;
  const axis = about.slice(3) as Vec;
  const arm = at.map((c, k) => c - about[k]!) as Vec;
  const along = dot(arm, axis);
  const out = arm.map((c, k) => c - along * axis[k]!) as Vec;
  const far = Math.hypot(...out);
  const aside: Vec = Math.abs(axis[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0];
  const flat = aside.map((c, k) => c - dot(aside, axis) * axis[k]!) as Vec;
  const radial = (far > 1e-9 ? out : flat).map((c) => c / (far > 1e-9 ? far : Math.hypot(...flat))) as Vec;
  return [dot(vector, radial), dot(vector, cross(axis, radial)), dot(vector, axis)];
}

export const axesName = (about: InAxes) => (about ? "radial, hoop, axial" : "x, y, z");

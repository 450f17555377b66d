import type { StudyDocument } from "@/api/client";
import type { SceneBlock } from "@/api/sceneBlock";
import { length } from "@/api/units";
import type { StageLabel } from "@/scene/Stage";
import type { Cut, StageLook } from "@/scene/Stage3D";

import { bodyColours } from "./benchLook";

/** Below the first share of the largest, a gap is rounding; below the second it does not show in colours. */
const NOTHING = 1e-6;
const FAINT = 0.02;
/** Numbers along a section through the faces. */
const ALONG = 7;
type Place = { at: [number, number, number]; value: number };

/** A gap in words: an overlap is no negative gap. */
export const gapText = (mm: number) => (mm < 0 ? `overlap ${length(-mm)}` : mm > 0 ? `gap ${length(mm)}` : "touching");

const round = (value: number, largest: number) => (Math.abs(value) < NOTHING * largest ? 0 : value);

/** What the stage shows of the gap of a pair, with numbers: least and largest, or along a section those it cuts. */
export function gapLook(study: StudyDocument, block: SceneBlock, cut: Cut | undefined) {
  const patch = block.patches[0];
  const values = patch?.values;
  if (!patch || !values?.length) return undefined;
  const largest = values.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
  const size = Math.max(largest, 1e-9);
  const shown = values.map((v) => round(v, size));
  const low = shown.reduce((m, v) => Math.min(m, v), Infinity);
  const high = shown.reduce((m, v) => Math.max(m, v), -Infinity);
  // Where faces gap and overlap, nothing is in the middle of the colours.
  const signed = low < -FAINT * size && high > FAINT * size;
  const limits = signed ? { low: -size, high: size, signed } : { low, high: high > low ? high : low + 1e-6, signed };
  const look: StageLook = {
    colours: bodyColours(study, block),
    looks: block.bodies.map(() => "ghost"),
    highlights: [],
    showMesh: false,
    scale: 1,
    limits,
    patch: { index: 0, values: shown, status: false },
  };
  const along = cut ? alongCut(patch, shown, cut) : [];
  const places = along.length ? along : extremes(patch, shown);
  const labels = places.map(({ at, value }, i): StageLabel => {
    const tone = value < 0 ? "load" : "hold";
    return { id: `gap-${i}`, at, text: gapText(value), tone };
  });
  return { look, limits, labels, low, high };
}

type Patch = { positions: Float32Array; triangles: Uint32Array };

const pointOf = ({ positions }: Patch, i: number): [number, number, number] => [
  positions[3 * i] ?? 0,
  positions[3 * i + 1] ?? 0,
  positions[3 * i + 2] ?? 0,
];

/** Where it is least and where it is largest, once where that is alike everywhere. */
function extremes(patch: Patch, values: Float32Array): Place[] {
  const least = values.reduce((best, v, i) => (v < (values[best] ?? 0) ? i : best), 0);
  const most = values.reduce((best, v, i) => (v > (values[best] ?? 0) ? i : best), 0);
  const both = values[least] === values[most] ? [least] : [least, most];
  return both.map((i) => ({ at: pointOf(patch, i), value: values[i] ?? 0 }));
}

/** Places spread over where a plane cuts the patch, with what there is between its nodes. */
function alongCut(patch: Patch, values: Float32Array, [nx, ny, nz, offset]: Cut): Place[] {
  const height = (p: readonly number[]) => nx * (p[0] ?? 0) + ny * (p[1] ?? 0) + nz * (p[2] ?? 0) - offset;
  const found: Place[] = [];
  for (let t = 0; t < patch.triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const [i, j] = [patch.triangles[t + k] ?? 0, patch.triangles[t + ((k + 1) % 3)] ?? 0];
      if (i > j) continue;
      const [a, b] = [pointOf(patch, i), pointOf(patch, j)];
      const [ha, hb] = [height(a), height(b)];
      if (ha === hb || ha * hb > 0) continue;
      const share = ha / (ha - hb);
      const mix = (p: number, q: number) => p + share * (q - p);
      found.push({
        at: [mix(a[0], b[0]), mix(a[1], b[1]), mix(a[2], b[2])],
        value: mix(values[i] ?? 0, values[j] ?? 0),
      });
    }
  }
  if (found.length <= ALONG) return found;
  // Along the direction in which they spread most.
  const span = ([0, 1, 2] as const).map((d) => {
    const all = found.map((f) => f.at[d]);
    return Math.max(...all) - Math.min(...all);
  });
  const widest = span.indexOf(Math.max(...span)) as 0 | 1 | 2;
  const sorted = [...found].sort((p, q) => p.at[widest] - q.at[widest]);
  return Array.from({ length: ALONG }, (_, i) => sorted[Math.round((i * (sorted.length - 1)) / (ALONG - 1))]!);
}

import { useEffect, useMemo, useRef, useState } from "react";

import type { PairPatch } from "@/api/sceneBlock";
import { standsFor } from "@/api/units";
import { RAMP, type Span, shareIn, toColour } from "@/scene/ramp";
import { figure } from "@/ui/format";

import { isTorn, layFlat } from "./unroll";
import { COLOURS } from "@/ui/colours";

type Props = {
  patch: PairPatch;
  values: Float32Array;
  limits: Span;
  unit: string;
  isStatus: boolean;
};

const WIDEST = 258;
const TALLEST = 260;
const STATUS = ["open", "sticking", "sliding"];

/** The imprint: the faces of a pair laid flat, as pressure-sensitive film would show them. */
export function Imprint({ patch, values, limits, unit, isStatus }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [probe, setProbe] = useState<string>();
  const flat = useMemo(() => layFlat(patch), [patch]);
  const scale = Math.min(WIDEST / Math.max(flat.width, 1e-9), TALLEST / Math.max(flat.height, 1e-9));
  const width = Math.max(24, Math.ceil(flat.width * scale));
  const height = Math.max(24, Math.ceil(flat.height * scale));

  useEffect(() => {
    const element = canvas.current;
    const draw = element?.getContext("2d");
    if (!element || !draw) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = width * ratio;
    element.height = height * ratio;
    draw.scale(ratio, ratio);
    draw.clearRect(0, 0, width, height);
    const hatch = hatching(draw);
    for (let t = 0; t < patch.triangles.length; t += 3) {
      const [a = 0, b = 0, c = 0] = patch.triangles.subarray(t, t + 3);
      if (isTorn(patch, flat, [a, b, c])) continue;
      const mean = ((values[a] ?? 0) + (values[b] ?? 0) + (values[c] ?? 0)) / 3;
      draw.fillStyle = isStatus
        ? mean < 0.5
          ? COLOURS.bare
          : mean > 1.5
            ? hatch
            : COLOURS.verdigris
        : shade(shareIn(limits, mean));
      draw.strokeStyle = draw.fillStyle;
      draw.beginPath();
      for (const i of [a, b, c]) draw.lineTo((flat.points[2 * i] ?? 0) * scale, (flat.points[2 * i + 1] ?? 0) * scale);
      draw.closePath();
      draw.fill();
      draw.stroke();
    }
    outline(draw, patch, flat.points, scale);
  }, [patch, values, limits, isStatus, flat, scale, width, height]);

  const size = standsFor("mm");
  const read = (x: number, y: number) => {
    let best = -1;
    let distance = 100;
    for (let i = 0; i < values.length; i++) {
      const d = Math.hypot((flat.points[2 * i] ?? 0) * scale - x, (flat.points[2 * i + 1] ?? 0) * scale - y);
      if (d < distance) [best, distance] = [i, d];
    }
    const value = values[best];
    setProbe(
      value === undefined
        ? undefined
        : isStatus
          ? STATUS[Math.round(value)]
          : `${figure(Math.abs(value) < 1e-9 ? 0 : value * standsFor(unit).factor)} ${standsFor(unit).unit}`,
    );
  };

  return (
    <figure data-testid="imprint" data-kind={flat.kind}>
      <canvas
        ref={canvas}
        style={{ width, height }}
        className="mx-auto block bg-white"
        onMouseMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          read(e.clientX - box.left, e.clientY - box.top);
        }}
        onMouseLeave={() => setProbe(undefined)}
      />
      <figcaption className="flex justify-between text-[12.5px] text-quiet">
        <span>
          side A, {flat.kind === "flat" ? "seen from outside" : "unrolled"}, {figure(flat.width * size.factor)} ×{" "}
          {figure(flat.height * size.factor)} {size.unit}
        </span>
        <b className="text-ink">{probe}</b>
      </figcaption>
    </figure>
  );
}

function shade(share: number): string {
  const s = Math.min(Math.max(share, 0), 1) * (RAMP.length - 1);
  const i = Math.min(Math.floor(s), RAMP.length - 2);
  const [a, b] = [toColour(RAMP[i] ?? RAMP[0]), toColour(RAMP[i + 1] ?? RAMP[0])];
  const mix = a.map((v, k) => Math.round(255 * (v + (s - i) * ((b[k] ?? 0) - v))));
  return `rgb(${mix.join(",")})`;
}

/** Diagonal lines, our sign for sliding. */
function hatching(draw: CanvasRenderingContext2D): CanvasPattern | string {
  const tile = document.createElement("canvas");
  tile.width = tile.height = 6;
  const pen = tile.getContext("2d");
  if (!pen) return COLOURS.verdigrisSoft;
  pen.fillStyle = COLOURS.verdigrisPale;
  pen.fillRect(0, 0, 6, 6);
  pen.strokeStyle = COLOURS.verdigris;
  pen.lineWidth = 2;
  pen.beginPath();
  for (const shift of [-6, 0, 6]) {
    pen.moveTo(shift, 6);
    pen.lineTo(shift + 6, 0);
  }
  pen.stroke();
  return draw.createPattern(tile, "repeat") ?? COLOURS.verdigrisSoft;
}

/** Edges that belong to one triangle only, in ink. */
function outline(draw: CanvasRenderingContext2D, patch: PairPatch, points: Float32Array, scale: number): void {
  const uses = new Map<string, [number, number, number]>();
  for (let t = 0; t < patch.triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const a = patch.triangles[t + k] ?? 0;
      const b = patch.triangles[t + ((k + 1) % 3)] ?? 0;
      const key = a < b ? `${a},${b}` : `${b},${a}`;
      uses.set(key, [a, b, (uses.get(key)?.[2] ?? 0) + 1]);
    }
  }
  draw.strokeStyle = COLOURS.ink;
  draw.lineWidth = 1;
  draw.beginPath();
  for (const [a, b, count] of uses.values()) {
    if (count !== 1) continue;
    draw.moveTo((points[2 * a] ?? 0) * scale, (points[2 * a + 1] ?? 0) * scale);
    draw.lineTo((points[2 * b] ?? 0) * scale, (points[2 * b + 1] ?? 0) * scale);
  }
  draw.stroke();
}

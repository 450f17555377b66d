import { useState } from "react";

import type { SceneBlock } from "@/api/sceneBlock";
import { length } from "@/api/units";
import { Choice } from "@/ui/Choice";

import type { Cut } from "./Stage3D";

const AXES = ["x", "y", "z"] as const;
type Axis = (typeof AXES)[number];
/** Across an axis, or along a face that was picked: then with the face's normal. */
export type Section = { axis: Axis | "face"; share: number; flipped: boolean };
type Normal = readonly [number, number, number];

/** From where to where everything drawn reaches along a direction. */
function extent(block: SceneBlock, [nx, ny, nz]: Normal): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const body of block.bodies) {
    const p = body.positions;
    for (let i = 0; i < p.length; i += 3) {
      const along = nx * p[i]! + ny * p[i + 1]! + nz * p[i + 2]!;
      low = Math.min(low, along);
      high = Math.max(high, along);
    }
  }
  return [low, high];
}

/** The plane of a section at a share of the way through everything. */
export function planeOf(section: Section, block: SceneBlock, face?: Normal): { cut: Cut; at: number } {
  const normal: Normal =
    section.axis === "face"
      ? (face ?? [1, 0, 0])
      : (AXES.map((a) => Number(a === section.axis)) as [number, number, number]);
  const [low, high] = extent(block, normal);
  const at = low + section.share * (high - low);
  const sign = section.flipped ? -1 : 1;
  return { cut: [sign * normal[0], sign * normal[1], sign * normal[2], sign * at], at };
}

/** The share of the way through everything at which a section along a face passes through a point of it. */
export function shareOf(point: Normal, normal: Normal, block: SceneBlock): number {
  const [low, high] = extent(block, normal);
  return (point[0] * normal[0] + point[1] * normal[1] + point[2] * normal[2] - low) / (high - low || 1);
}

/** A section through everything on the stage: switched on, moved and turned; its plane for the stage. */
export function useCut(block: SceneBlock | undefined) {
  const [section, setSection] = useState<Section>();
  const [face, setFace] = useState<Normal>();
  const plane = section && block && block.bodies.length ? planeOf(section, block, face) : undefined;
  /** Cut along a face, a little below where it was picked. */
  const cutAlong = (point: Normal, normal: Normal) => {
    if (!block) return;
    setFace(normal);
    setSection({ axis: "face", share: shareOf(point, normal, block) - 1e-3, flipped: false });
  };
  return { section, setSection, plane, face, cutAlong };
}

type Props = Pick<ReturnType<typeof useCut>, "section" | "setSection" | "plane" | "face">;

export function CutSwitch({ section, setSection }: Pick<Props, "section" | "setSection">) {
  return (
    <label className="flex items-center gap-1.5 text-quiet">
      <input
        type="checkbox"
        checked={!!section}
        onChange={(e) => setSection(e.target.checked ? { axis: "x", share: 0.5, flipped: false } : undefined)}
      />{" "}
      section
    </label>
  );
}

/** Moves the section; `place`: how far from the top or bottom of the stage it stands. */
export function CutControl({ section, setSection, plane, face, place = "bottom-12" }: Props & { place?: string }) {
  if (!section) return null;
  return (
    <div
      role="group"
      aria-label="Section"
      className={`pointer-events-auto absolute right-4 ${place} flex items-center gap-3 rounded-md border border-line bg-paper px-3 py-1 shadow`}
    >
      <Choice
        label="across"
        value={section.axis}
        options={[
          ...AXES.map((a) => ({ value: a, label: a })),
          ...(face ? [{ value: "face" as const, label: "picked face" }] : []),
        ]}
        onChange={(axis) => setSection({ ...section, axis })}
      />
      <input
        type="range"
        min={0}
        max={1}
        step={0.005}
        value={section.share}
        aria-label="Place of the section"
        className="w-36 accent-verdigris"
        onChange={(e) => setSection({ ...section, share: Number(e.target.value) })}
      />
      <span className="w-20 text-right text-quiet">
        {plane ? `${section.axis === "face" ? "at" : section.axis} ${length(plane.at)}` : ""}
      </span>
      <button
        type="button"
        className="text-verdigris hover:underline"
        onClick={() => setSection({ ...section, flipped: !section.flipped })}
      >
        other side
      </button>
    </div>
  );
}

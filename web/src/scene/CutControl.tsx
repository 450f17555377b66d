import { useState } from "react";

import type { SceneBlock } from "@/api/sceneBlock";
import { length } from "@/api/units";
import { Choice } from "@/ui/Choice";

import type { Cut } from "./Stage3D";

const AXES = ["x", "y", "z"] as const;
type Axis = (typeof AXES)[number];
export type Section = { axis: Axis; share: number; flipped: boolean };

/** Least and largest coordinate of everything drawn, along an axis. */
function extent(block: SceneBlock, axis: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const body of block.bodies) {
    for (let i = axis; i < body.positions.length; i += 3) {
      low = Math.min(low, body.positions[i] ?? low);
      high = Math.max(high, body.positions[i] ?? high);
    }
  }
  return [low, high];
}

/** The plane of a section at a share of the way through everything. */
export function planeOf(section: Section, block: SceneBlock): { cut: Cut; at: number } {
  const axis = AXES.indexOf(section.axis);
  const [low, high] = extent(block, axis);
  const at = low + section.share * (high - low);
  const sign = section.flipped ? -1 : 1;
  const normal = AXES.map((_, i) => (i === axis ? sign : 0)) as [number, number, number];
  return { cut: [...normal, sign * at], at };
}

/** A section through everything on the stage: switched on, moved and turned; its plane for the stage. */
export function useCut(block: SceneBlock | undefined) {
  const [section, setSection] = useState<Section>();
  const plane = section && block && block.bodies.length ? planeOf(section, block) : undefined;
  return { section, setSection, plane };
}

type Props = ReturnType<typeof useCut>;

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

export function CutControl({ section, setSection, plane }: Props) {
  if (!section) return null;
  return (
    <div
      role="group"
      aria-label="Section"
      className="pointer-events-auto absolute right-4 bottom-12 flex items-center gap-3 rounded-md border border-line bg-paper px-3 py-1 shadow"
    >
      <Choice
        label="across"
        value={section.axis}
        options={AXES.map((a) => ({ value: a, label: a }))}
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
      <span className="w-20 text-right text-quiet">{plane ? `${section.axis} ${length(plane.at)}` : ""}</span>
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

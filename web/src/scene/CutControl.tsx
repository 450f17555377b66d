import { useState } from "react";

import { type SceneBlock, boxOf } from "@/api/sceneBlock";
import { length } from "@/api/units";
import { Choice } from "@/ui/Choice";

import type { Vec } from "./drawSigns";
import type { Grip } from "./Stage";
import type { Cut } from "./Stage3D";

const AXES = ["x", "y", "z"] as const;
type Axis = (typeof AXES)[number];
/**
 * Across an axis, or along a face that was picked: then with the face's normal. Or through an axis along x, y or z in the
 * middle of everything, turned about it by an angle (°).
 */
export type Section = { axis: Axis | "face" | "turned"; share: number; flipped: boolean; about?: Axis; angle?: number };
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
export function planeOf(section: Section, block: SceneBlock, face?: Normal): Plane {
  const normal = normalOf(section, face);
  const [low, high] = extent(block, normal);
  const { low: least, high: most } = boxOf(block);
  const middle = least.map((c, k) => (c + most[k]!) / 2) as unknown as Normal;
  const through = normal[0] * middle[0] + normal[1] * middle[1] + normal[2] * middle[2];
  const at = section.axis === "turned" ? through : low + section.share * (high - low);
  const sign = section.flipped ? -1 : 1;
  const point = middle.map((c, k) => c + (at - through) * normal[k]!) as Vec;
  return {
    cut: [sign * normal[0], sign * normal[1], sign * normal[2], sign * at],
    at,
    normal,
    point,
    reach: high - low,
  };
}

/** `at`: how far along the `normal`; `point`: of the plane, beside the middle of everything; `reach`: of all along it. */
type Plane = { cut: Cut; at: number; normal: Normal; point: Vec; reach: number };

function normalOf({ axis, about = "z", angle = 0 }: Section, face: Normal | undefined): Normal {
  if (axis === "face") return face ?? [1, 0, 0];
  if (axis !== "turned") return AXES.map((a) => Number(a === axis)) as unknown as Normal;
  const along = AXES.indexOf(about);
  const [cos, sin] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  const normal: [number, number, number] = [0, 0, 0];
  normal[(along + 1) % 3] = cos;
  normal[(along + 2) % 3] = sin;
  return normal;
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
  /** What the plane is dragged by on the stage, along its normal. */
  const grip: Grip | undefined =
    section && plane && section.axis !== "turned"
      ? {
          at: plane.point,
          along: plane.normal as Vec,
          onMoved: (by) => {
            const share = section.share + by / (plane.reach || 1);
            setSection({ ...section, share: Math.min(1, Math.max(0, share)) });
          },
        }
      : undefined;
  return { section, setSection, plane, face, cutAlong, grip };
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
export function CutControl({
  section,
  setSection,
  plane,
  face,
  place = "absolute right-4 bottom-12",
}: Props & { place?: string }) {
  if (!section) return null;
  return (
    <div
      role="group"
      aria-label="Section"
      className={`pointer-events-auto ${place} flex items-center gap-3 rounded-md border border-line bg-paper px-3 py-1 shadow`}
    >
      <Choice
        label="across"
        value={section.axis}
        options={[
          ...AXES.map((a) => ({ value: a, label: a })),
          ...(face ? [{ value: "face" as const, label: "picked face" }] : []),
          { value: "turned" as const, label: "an axis" },
        ]}
        onChange={(axis) => setSection({ ...section, axis })}
      />
      {section.axis === "turned" ? (
        <>
          <Choice
            label="along"
            value={section.about ?? "z"}
            options={AXES.map((a) => ({ value: a, label: a }))}
            onChange={(about) => setSection({ ...section, about })}
          />
          <input
            type="range"
            min={0}
            max={180}
            step={1}
            value={section.angle ?? 0}
            aria-label="Turn of the section"
            className="w-24 accent-verdigris"
            onChange={(e) => setSection({ ...section, angle: Number(e.target.value) })}
          />
          <span className="w-10 text-right text-quiet">{section.angle ?? 0}°</span>
        </>
      ) : (
        <>
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
        </>
      )}
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

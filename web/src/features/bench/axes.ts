import type { SupportUse } from "@/api/client";

/** What directions about a line are called. */
const ROUND: Record<string, string> = { x: "radial", y: "hoop", z: "axial" };

/** What a component is called in the axes of a support. */
export function componentName(component: string, axes: SupportUse["axes"]): string {
  const axis = component.at(-1) ?? "";
  const word = axes?.kind === "round" ? (ROUND[axis] ?? axis) : axis;
  return component.startsWith("turn-") ? `turn ${word}` : word;
}

/** What a support holds along, in words. */
export const heldAlong = ({ components, axes }: SupportUse) =>
  (components ?? []).map((c) => componentName(c, axes)).join(", ");

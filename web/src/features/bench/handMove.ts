import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import { length } from "@/api/units";
import type { Offset } from "@/scene/Stage3D";

const AXES = ["x", "y", "z"] as const;
const PLACES = ["the low side", "the middle", "the high side"] as const;

/** Low side, middle and high side of a body along an axis. */
function levels({ positions }: BodySkin, axis: number): [number, number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (let i = axis; i < positions.length; i += 3) {
    low = Math.min(low, positions[i] ?? low);
    high = Math.max(high, positions[i] ?? high);
  }
  return [low, (low + high) / 2, high];
}

/**
 * Where a body comes to rest that the pointer moves `by` across `axis`: sides and middles line up with those of other
 * bodies within `reach`, and what lines up with nothing goes by whole steps.
 */
export function settled(
  block: SceneBlock,
  body: string,
  by: Offset,
  axis: number,
  reach: number,
  nameOf: (body: string) => string,
): { by: Offset; says: string } {
  const own = block.bodies.find((b) => b.name === body);
  const says: string[] = [];
  const at = by.map((wanted, i) => {
    if (i === axis || !own) return 0;
    let best: { by: number; says: string } | undefined;
    for (const other of block.bodies) {
      if (other.name === body) continue;
      const theirs = levels(other, i);
      levels(own, i).forEach((mine, m) =>
        theirs.forEach((level, n) => {
          // A middle lines up with a middle only.
          if (
            (m === 1) !== (n === 1) ||
            Math.abs(level - mine - wanted) >= Math.min(reach, best ? Math.abs(best.by - wanted) : reach)
          )
            return;
          best = {
            by: Number((level - mine).toFixed(6)),
            says: `${PLACES[m]} at ${PLACES[n]} of ${nameOf(other.name)}`,
          };
        }),
      );
    }
    const step = stepOf(reach);
    const went = best?.by ?? Number((Math.round(wanted / step) * step).toFixed(6));
    says.push(`${AXES[i]} ${went < 0 ? "−" : "+"}${length(Math.abs(went), 4)}${best ? `, ${best.says}` : ""}`);
    return went;
  });
  return { by: [at[0] ?? 0, at[1] ?? 0, at[2] ?? 0], says: says.join(" · ") };
}

/** A round step (mm) that is about a third of what lines up. */
function stepOf(reach: number): number {
  const size = 10 ** Math.floor(Math.log10(reach / 3));
  return size * ([5, 2, 1].find((f) => f * size <= reach / 3) ?? 1);
}

/** How far each body stands off when all are taken apart: away from the middle of all, its middle the further. */
export function takenApart(block: SceneBlock, share: number): Offset[] {
  const boxes = block.bodies.map((b) => [0, 1, 2].map((axis) => levels(b, axis)));
  const whole = [0, 1, 2].map((axis) => {
    const low = Math.min(...boxes.map((b) => b[axis]?.[0] ?? 0));
    const high = Math.max(...boxes.map((b) => b[axis]?.[2] ?? 0));
    return { middle: (low + high) / 2, size: high - low };
  });
  const size = Math.hypot(...whole.map((w) => w.size));
  // Bodies about one middle are told apart along the longest axis, each a little further than the one before.
  const longest = whole.findIndex((w) => w.size === Math.max(...whole.map((v) => v.size)));
  let coincident = 0;
  return boxes.map((box) => {
    const away = whole.map((w, axis) => (box[axis]?.[1] ?? w.middle) - w.middle);
    if (Math.hypot(...away) < CLOSE * size) away[longest] = (coincident++ * size) / 2;
    return [0, 1, 2].map((axis) => share * (away[axis] ?? 0)) as unknown as Offset;
  });
}
/** Middles closer than this share of the size of all are one. */
const CLOSE = 0.02;

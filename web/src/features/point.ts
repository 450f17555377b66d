import { ApiProblem } from "@/api/client";
import { spoken } from "@/api/units";
import type { Vec } from "@/scene/drawSigns";

/** A point (mm) as it is written in an entry, in the unit of lengths that is read. */
export const pointText = (at: readonly number[]) =>
  at.map((c) => String(Number((c * spoken("length").factor).toPrecision(6)))).join(", ");

/** A point (mm) from what is typed; refused with what is to be said where it is none. */
export function readPoint(text: string): Promise<Vec> {
  const typed = text.split(/[,;\s]+/).map(Number);
  if (typed.length !== 3 || typed.some((c) => !Number.isFinite(c)))
    return Promise.reject(new ApiProblem("point", `“${text}” is no point.`, "", "Give three numbers: 10, 0, 5."));
  return Promise.resolve(typed.map((c) => c / spoken("length").factor) as Vec);
}

import type { LoadUse, StepUse, StudyDocument, StudyInfo } from "@/api/client";
import { spoken } from "@/api/units";
import { loadSort } from "@/api/vocabulary";
import type { PlotPoint } from "@/ui/PointPlot";

type Course = NonNullable<LoadUse["courses"]>[string];

/** The points of a course in one line: `0: 0 kN, 0.5: 20 kN`. */
export const courseText = (course: Course | undefined) => (course ?? []).map((p) => `${p.at}: ${p.value}`).join(", ");

/**
 * The course that a line says, or rows pasted from a sheet: a share of the step and a value with its unit. What
 * cannot be read stays as text, for the server to refuse with its place.
 */
export function courseOf(text: string): { at: number | string; value: string }[] {
  return text
    .split(/;|\n|,\s/)
    .map((row) => row.trim())
    .filter(Boolean)
    .map((row) => {
      const [, at = "", value = ""] = /^([^:\s]+)\s*[:\s]\s*(.*)$/.exec(row) ?? [];
      const share = Number(at.replace(/%$/, "").replace(",", ".")) / (at.endsWith("%") ? 100 : 1);
      return { at: at === "" || Number.isNaN(share) ? at || row : share, value };
    });
}

/** A load through a step, from what it was to its value at the end, in the unit that it is spoken in. */
export function pointsIn(
  study: StudyDocument,
  amounts: StudyInfo["amounts"],
  load: LoadUse,
  step: StepUse,
): PlotPoint[] {
  const { factor } = spoken(loadSort(load.kind).quantity);
  const steps = study.steps ?? [];
  const ends = amounts.loads[load.id] ?? {};
  const upTo = (count: number) => steps.slice(0, count).reduce((last, s) => ends[s.id] ?? last, 0);
  const number = steps.findIndex((s) => s.id === step.id);
  const inner = (amounts.courses[load.id]?.[step.id] ?? []).map(([x, y]) => ({ x, y }));
  const begin = inner[0]?.x === 0 ? [] : [{ x: 0, y: upTo(number) }];
  return [...begin, ...inner, { x: 1, y: upTo(number + 1) }].map(({ x, y }) => ({
    x,
    y: Number((y * factor).toPrecision(6)),
  }));
}

import { heldAlong } from "@/features/bench/axes";
import type { LoadUse, StudyDocument, StudyInfo, Summary } from "@/api/client";
import { loadSort } from "@/api/vocabulary";
import { force, moment, momentAbout, say } from "@/api/units";
import type { Selected } from "@/features/selection";

export type Amounts = StudyInfo["amounts"];

export type LaneKind = "Hold" | "Tighten" | "Load" | "Pair";

export type CellShape = { text: string; from: number; to: number; style: "solid" | "dashed" | "idle" };

export type Lane = {
  key: string;
  kind: LaneKind;
  name: string;
  select: Selected;
  cells: CellShape[];
  /** Written value per step when the cell can be edited. */
  written?: (string | undefined)[];
};

const IDLE: CellShape = { text: "", from: 0, to: 0, style: "idle" };

/** Lanes of the sequence board: supports, bolts, loads and pairs, a cell for each step; what sleeps does nothing. */
export function lanesOf(study: StudyDocument, amounts: Amounts, asleep: Record<string, string[]> = {}): Lane[] {
  const isIn = (study.steps ?? []).map((step) => !asleep.step?.includes(step.id));
  return allLanes(study, amounts, isIn).map((lane) =>
    asleep[lane.select.kind]?.includes(lane.select.id)
      ? { ...lane, written: undefined, cells: lane.cells.map((_, i) => ({ ...IDLE, text: i === 0 ? "asleep" : "" })) }
      : // What is written for steps that are left out can still be changed.
        { ...lane, cells: lane.cells.map((cell, i) => (isIn[i] ? cell : IDLE)) },
  );
}

function allLanes(study: StudyDocument, amounts: Amounts, isIn: boolean[]): Lane[] {
  const steps = study.steps ?? [];
  const lanes: Lane[] = [];
  for (const support of study.supports ?? []) {
    const held = support.kind === "components" ? `held ${heldAlong(support)}` : (support.kind ?? "fixed");
    lanes.push({
      key: `support/${support.id}`,
      kind: "Hold",
      name: support.name,
      select: { kind: "support", id: support.id },
      cells: steps.map((_, i) => ({ text: i === 0 ? held : "", from: 1, to: 1, style: "solid" })),
    });
  }
  for (const bolt of study.bolts ?? []) {
    const written = steps.map((s) => bolt.preload?.[s.id]);
    lanes.push({
      key: `bolt/${bolt.id}`,
      kind: "Tighten",
      name: bolt.name,
      select: { kind: "bolt", id: bolt.id },
      written,
      cells: rampCells(
        written,
        steps.map((s) => amounts.bolts[bolt.id]?.[s.id]),
        "length kept",
        isIn,
      ),
    });
  }
  for (const load of study.loads ?? []) {
    const written = steps.map((s) => load.values?.[s.id]);
    lanes.push({
      key: `load/${load.id}`,
      kind: "Load",
      name: load.name,
      select: { kind: "load", id: load.id },
      written,
      cells: rampCells(
        written,
        steps.map((s) => amounts.loads[load.id]?.[s.id]),
        undefined,
        isIn,
      ),
    });
  }
  for (const pair of study.pairs ?? []) {
    lanes.push({
      key: `pair/${pair.id}`,
      kind: "Pair",
      name: pair.name,
      select: { kind: "pair", id: pair.id },
      cells: steps.map((_, i) => ({ text: i === 0 ? lawText(pair.law) : "", from: 1, to: 1, style: "solid" })),
    });
  }
  return lanes;
}

/**
 * Cells of something written per step: ramps where a value stands, held (or kept) after. Heights are of what the
 * values amount to (the server's numbers, whatever units they are written in); texts are as written.
 */
function rampCells(
  written: (string | undefined)[],
  amounts: (number | undefined)[],
  kept: string | undefined,
  isIn: boolean[],
): CellShape[] {
  const peak = Math.max(...amounts.map((a) => Math.abs(a ?? 0)), 1e-300);
  let last: { text: string; height: number } | undefined;
  return written.map((text, i) => {
    const before = last;
    const from = before?.height ?? 0;
    if (text === undefined || !isIn[i]) {
      if (before === undefined || before.height === 0) return IDLE;
      return { text: kept ?? "held", from, to: from, style: kept === undefined ? "solid" : "dashed" };
    }
    last = { text, height: (amounts[i] ?? 0) / peak };
    return {
      text: `${before === undefined || before.height === 0 ? "0" : before.text} → ${text === "off" ? "0" : text}`,
      from,
      to: last.height,
      style: "solid",
    };
  });
}

/** A pair law in a few words. */
export function lawText(law: { may_open?: boolean; may_slide?: string; mu?: number } | undefined): string {
  const open = law?.may_open ?? true;
  const slide = law?.may_slide ?? "friction";
  if (slide === "friction") return `may open, µ ${law?.mu ?? 0.15}`;
  if (open) return slide === "freely" ? "smooth: opens, slides freely" : "grip: opens, does not slide";
  return slide === "freely" ? "captive: slides, does not open" : "tied";
}

export type Course = { points: { x: number; y: number }[]; readout: string };

/** The computed answer of a lane: course over the steps (x in steps, y −1…1) and its value at `head`. */
export function courseOf(lane: Lane, study: StudyDocument, history: Summary[], head: number): Course | undefined {
  const value = valueOf(lane, study);
  if (!value || !history.length) return undefined;
  const values = history.map(value);
  const peak = Math.max(...values.map(Math.abs), 1e-9);
  const points = history.map((s, i) => ({ x: s.step + s.time, y: (values[i] ?? 0) / peak }));
  const now = values[head] ?? 0;
  const load = lane.kind === "Load" ? study.loads?.find((l) => l.id === lane.select.id) : undefined;
  const answer = load && answerOf(load, history[head]);
  const text = load ? say(now, loadSort(load.kind).quantity) + (answer ? `, ${answer}` : "") : force(now);
  return {
    points: [{ x: 0, y: 0 }, ...points],
    readout: `${lane.kind === "Hold" ? "R " : lane.kind === "Pair" ? "N " : ""}${text}`,
  };
}

/** What something that is moved asks for: a torque about its axis where it is turned, else a force along its way. */
function answerOf(load: LoadUse, now: Summary | undefined): string | undefined {
  const carrier = now?.carriers.find((c) => c.kind === "motion" && c.name === load.id);
  if (!carrier || !load.direction) return undefined;
  const along = (v: readonly number[]) =>
    v.reduce((sum, c, k) => sum + c * (load.direction?.[k] ?? 0), 0) / Math.hypot(...(load.direction ?? [1]));
  const isTurn = load.kind === "rotation";
  return isTurn ? moment(along(momentAbout(carrier, carrier.about))) : force(along(carrier.force));
}

function valueOf(lane: Lane, study: StudyDocument): ((s: Summary) => number) | undefined {
  const { id } = lane.select;
  if (lane.kind === "Hold")
    return (s) => Math.hypot(...(s.carriers.find((c) => c.kind === "support" && c.name === id)?.force ?? [0, 0, 0]));
  if (lane.kind === "Load") return (s) => s.values[id] ?? 0;
  if (lane.kind === "Pair") return (s) => s.pairs[id]?.normal_force ?? 0;
  // The bolts of a part go by its name, a line by its own.
  const part = study.bolts?.find((b) => b.id === id)?.part ?? id;
  return (s) =>
    Math.max(
      ...Object.entries(s.bolts)
        .filter(([n]) => n.split("#")[0] === part)
        .map(([, b]) => b.force),
      0,
    );
}

import type { RunEvent } from "@/api/client";
import type { Swing } from "@/features/selection";
import { duration, figure } from "@/ui/format";

export type Line = {
  key: string;
  text: string;
  tone: "plain" | "good" | "watch" | "bad";
  detail?: string;
  /** What nothing held when it could not go on. */
  moving?: Swing[];
};

/** Residual of each iteration and where each increment ended, for the plots. */
export type Progress = {
  /** Increments taken over from the run that this one goes on from. */
  before: number;
  /** How many increments have their results kept, and the number of the last of them. */
  kept: { count: number; number: number };
  residual: { x: number; y: number; flips: number }[];
  increments: { at: number; total: number; iterations: number }[];
};

/** The story of a run in plain words, oldest first. */
export function tell(events: RunEvent[], stepNames: string[]): Line[] {
  const lines: Line[] = [];
  let flips = 0;
  let touched = false;
  events.forEach((event, i) => {
    const key = String(i);
    if (event.kind === "phase") lines.push({ key, tone: "plain", ...phaseText(event) });
    else if (event.kind === "step") {
      lines.push({
        key,
        tone: "plain",
        text: `Step ${event.step + 1}, ${stepNames[event.step] ?? event.name}, begins.`,
      });
    } else if (event.kind === "iteration") {
      if (event.number === 1) flips = 0;
      flips += event.status_changes;
    } else if (event.kind === "increment") {
      const s = event.summary;
      const many = s.iterations > 12;
      lines.push({
        key,
        tone: many ? "watch" : "good",
        text: `${Math.round(s.time * 100)} % of step ${s.step + 1} reached in ${s.iterations} ${s.iterations === 1 ? "iteration" : "iterations"}.`,
        detail: settled(flips, s.iterations, !touched),
      });
      touched = true;
      flips = 0;
    } else if (event.kind === "cutback" && event.slowly) {
      lines.push({
        key,
        tone: "watch",
        text: "Let go at once it does not settle; it is let go bit by bit over the step.",
        detail: "What held it fades until the end of the step. Only then is it free: the increments before it are not.",
      });
    } else if (event.kind === "cutback") {
      lines.push({
        key,
        tone: "watch",
        text: `Did not settle; the increment is halved to ${figure(event.size * 100)} % of the step.`,
        detail:
          "This is how sliding or opening parts are followed. It is a concern only when it repeats down to the least increment.",
      });
    } else if (event.kind === "settling") {
      lines.push({ key, tone: "plain", text: `Mesh ${event.mesh} begins.` });
    } else if (event.kind === "resumed") {
      lines.push({
        key,
        tone: "plain",
        text: `Goes on after increment ${event.number}, at ${Math.round(event.time * 100)} % of step ${event.step + 1}.`,
      });
    } else if (event.kind === "end") lines.push({ key, ...endText(event) });
  });
  return lines;
}

function settled(flips: number, iterations: number, first: boolean): string {
  if (first && iterations > 3)
    return `${flips} contact nodes changed state: normal at first touch, every pair finds out where it presses.`;
  if (flips === 0) return "No contact node changed state.";
  return `${flips} changes of contact state on the way.`;
}

function phaseText(event: Extract<RunEvent, { kind: "phase" }>): Pick<Line, "text" | "detail"> {
  const count = (n: number | null | undefined) => (n ?? 0).toLocaleString("en").replaceAll(",", " ");
  if (event.phase === "check") return { text: "Checking for loose parts and pairs that do not face." };
  if (event.phase === "mesh") return { text: "Meshing the parts." };
  if (event.phase === "factor")
    return { text: `Setting up ${count(event.unknowns)} unknowns: elements, pairs and factors.` };
  if (event.path === "iterative")
    return {
      text: "Newton's method on all unknowns, iterated: nothing is factored.",
      detail: `Because ${event.reason}.`,
    };
  if (event.path === "full" || event.path === "mixed") {
    const rest = event.path === "mixed" ? "all that yields or touches" : "all unknowns";
    return { text: `Newton's method on ${rest}, factored in every iteration.`, detail: `Because ${event.reason}.` };
  }
  if (event.reused) {
    return {
      text: "The factors of the last run serve this one too: nothing is factored.",
      detail: `${count(event.joint_unknowns)} unknowns at the joints.`,
    };
  }
  const backend =
    event.backend === "superlu" ? " The fast solver does not run on this machine; SuperLU takes its place." : "";
  return {
    text: `Factored in ${duration(event.factor_seconds ?? 0)}; from here only the joints are solved.`,
    detail: `${count(event.joint_unknowns)} unknowns at the joints.${backend}`,
  };
}

function endText(event: Extract<RunEvent, { kind: "end" }>): Omit<Line, "key"> {
  if (event.status === "solved")
    return { tone: "good", text: `Solved in ${duration(event.seconds ?? 0)}.`, detail: event.message };
  if (event.status === "stopped")
    return {
      tone: "watch",
      text: "Stopped on request.",
      detail: "The increments so far are kept: review them, or resume from the last one.",
    };
  return { tone: "bad", text: event.message, detail: event.hint, moving: event.mechanism };
}

/** Numbers for the plots. */
export function progressOf(events: RunEvent[]): Progress {
  const progress: Progress = { before: 0, kept: { count: 0, number: 0 }, residual: [], increments: [] };
  for (const event of events) {
    if (event.kind === "resumed") {
      progress.before = event.number;
      progress.kept = { count: event.kept ?? event.number, number: event.number };
    } else if (event.kind === "iteration") {
      progress.residual.push({
        x: progress.residual.length + 1,
        y: Math.max(event.change, 1e-12),
        flips: event.status_changes,
      });
    } else if (event.kind === "increment") {
      if (event.kept) progress.kept = { count: progress.kept.count + 1, number: event.summary.number };
      progress.increments.push({
        at: progress.residual.length,
        total: event.summary.step + event.summary.time,
        iterations: event.summary.iterations,
      });
    }
  }
  return progress;
}

/** Share of all steps that is done. */
export function shareDone(events: RunEvent[], steps: number): number {
  const last = progressOf(events).increments.at(-1);
  return steps && last ? last.total / steps : 0;
}

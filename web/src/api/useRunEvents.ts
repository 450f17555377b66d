import { useEffect, useState } from "react";

import type { Summary } from "./hooks";

/** One event of a run's story, as the worker wrote it. */
export type RunEvent =
  | { kind: "phase"; phase: "check" | "mesh" | "factor" | "solve"; seconds: number; unknowns?: number; joint_unknowns?: number; backend?: string; factor_seconds?: number; reused?: boolean; path?: string; reason?: string }
  | { kind: "resumed"; step: number; time: number; number: number; seconds: number }
  | { kind: "step"; step: number; name: string; seconds: number }
  | { kind: "iteration"; step: number; time: number; number: number; change: number; status_changes: number; unknowns: number; seconds: number }
  | { kind: "cutback"; step: number; time: number; size: number; seconds: number }
  | { kind: "increment"; summary: Summary; seconds: number }
  | { kind: "end"; status: string; message: string; where: string; hint: string; seconds: number | null };

/** The story of a run from its start, live while it goes on. */
export function useRunEvents(runId: number | undefined): RunEvent[] {
  const [events, setEvents] = useState<RunEvent[]>([]);
  useEffect(() => {
    setEvents([]);
    if (runId === undefined) return;
    const source = new EventSource(`/api/runs/${runId}/events`);
    const seen = new Set<string>();
    let waiting: RunEvent[] = [];
    // Events come in bursts: hand them on once a frame.
    let frame = 0;
    const flush = () => {
      frame = 0;
      const batch = waiting;
      waiting = [];
      setEvents((before) => [...before, ...batch]);
    };
    source.onmessage = (message: MessageEvent<string>) => {
      if (seen.has(message.lastEventId)) return;
      seen.add(message.lastEventId);
      waiting.push(JSON.parse(message.data) as RunEvent);
      if (!frame) frame = requestAnimationFrame(flush);
    };
    source.addEventListener("close", () => source.close());
    return () => {
      source.close();
      cancelAnimationFrame(frame);
    };
  }, [runId]);
  return events;
}

import { useEffect, useState } from "react";

import type { RunEvent } from "./client";

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

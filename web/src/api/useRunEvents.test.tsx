import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { useRunEvents } from "./useRunEvents";

class Source extends EventTarget {
  static readonly all: Source[] = [];
  onmessage: ((message: { data: string; lastEventId: string }) => void) | undefined;
  isClosed = false;
  constructor(readonly url: string) {
    super();
    Source.all.push(this);
  }
  close() {
    this.isClosed = true;
  }
  say(id: number, event: object) {
    this.onmessage?.({ data: JSON.stringify(event), lastEventId: String(id) });
  }
}

const frames: (() => void)[] = [];
const nextFrame = () => act(() => frames.splice(0).forEach((frame) => frame()));

beforeEach(() => {
  Source.all.length = 0;
  vi.stubGlobal("EventSource", Source);
  vi.stubGlobal("requestAnimationFrame", (frame: () => void) => frames.push(frame));
  vi.stubGlobal("cancelAnimationFrame", () => frames.splice(0));
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const step = (n: number) => ({ kind: "step", step: n, name: `Step ${n}`, seconds: n });

test("a line that drops replays the story from its start, and nothing is told twice", () => {
  const { result } = renderHook(() => useRunEvents(3));
  const [source] = Source.all;
  expect(source?.url).toBe("/api/runs/3/events");
  source?.say(0, step(0));
  source?.say(1, step(1));
  nextFrame();
  // The browser connects again; the server begins anew.
  source?.say(0, step(0));
  source?.say(1, step(1));
  source?.say(2, step(2));
  nextFrame();
  expect(result.current.map((e) => e.kind === "step" && e.step)).toEqual([0, 1, 2]);
});

test("another run begins its own story, and the line of the first is closed", () => {
  const { result, rerender } = renderHook(({ run }) => useRunEvents(run), { initialProps: { run: 3 } });
  Source.all[0]?.say(0, step(0));
  nextFrame();
  rerender({ run: 4 });
  expect(result.current).toEqual([]);
  expect(Source.all.map((s) => s.isClosed)).toEqual([true, false]);
  Source.all[1]?.say(0, step(7));
  nextFrame();
  expect(result.current).toHaveLength(1);
});

test("the server says when the story is over", () => {
  renderHook(() => useRunEvents(3));
  act(() => void Source.all[0]?.dispatchEvent(new Event("close")));
  expect(Source.all[0]?.isClosed).toBe(true);
});

import { useRef } from "react";

import type { Summary } from "@/api/client";

type Props = {
  history: Summary[];
  head: number;
  steps: number;
  left: number;
  right: number;
  onHead: (index: number) => void;
};

/** The play head over the board's columns: dragged, or moved with the arrow keys. */
export function PlayHead({ history, head, steps, left, right, onHead }: Props) {
  const area = useRef<HTMLDivElement>(null);
  const now = history[head];
  if (!now) return null;
  const at = ((now.step + now.time) / steps) * 100;

  const nearest = (clientX: number) => {
    const box = area.current?.getBoundingClientRect();
    if (!box) return;
    const x = ((clientX - box.left) / box.width) * steps;
    let best = 0;
    history.forEach((s, i) => {
      const kept = history[best];
      if (kept && Math.abs(s.step + s.time - x) < Math.abs(kept.step + kept.time - x)) best = i;
    });
    if (best !== head) onHead(best);
  };

  return (
    <div ref={area} className="pointer-events-none absolute inset-y-0" style={{ left, right }}>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Play head"
        aria-valuemin={1}
        aria-valuemax={history.length}
        aria-valuenow={head + 1}
        aria-valuetext={`step ${now.step + 1}, ${Math.round(now.time * 100)} %`}
        onKeyDown={(e) => {
          if (e.key === "ArrowLeft") onHead(Math.max(0, head - 1));
          if (e.key === "ArrowRight") onHead(Math.min(history.length - 1, head + 1));
          if (e.key === "Home") onHead(0);
          if (e.key === "End") onHead(history.length - 1);
        }}
        onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
        onPointerMove={(e) => e.buttons && nearest(e.clientX)}
        className="pointer-events-auto absolute -top-0 h-full w-4 -translate-x-1/2 cursor-ew-resize"
        style={{ left: `${at}%` }}
      >
        <span className="absolute top-[2px] left-1/2 h-3 w-3 -translate-x-1/2 rounded-full bg-vermilion" />
        <span className="absolute top-2 bottom-0 left-1/2 w-[1.5px] -translate-x-1/2 bg-vermilion" />
      </div>
    </div>
  );
}

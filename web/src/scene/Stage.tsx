import { type ReactNode, useEffect, useRef, useState } from "react";
import * as THREE from "three";

import type { SceneBlock } from "@/api/sceneBlock";

import { type Cut, type Gauge, type Pick, Stage3D, type StageLook } from "./Stage3D";
import { StageGauge } from "./StageGauge";

export type StageLabel = { id: string; at: [number, number, number]; text: string; tone: "load" | "hold" };

type Props = {
  block: SceneBlock | undefined;
  look: StageLook;
  labels?: StageLabel[];
  cut?: Cut;
  onPick?: (pick: Pick | undefined) => void;
  /** A press of the right button that turned nothing: all faces under it, and where it was. */
  onPeel?: (picks: Pick[], at: { x: number; y: number }) => void;
  /** Whether a legend stands in the corner of the axes. */
  hasLegend?: boolean;
  children?: ReactNode;
};

const VIEWS: Record<string, [number, number, number]> = {
  f: [-0.78, 0.5, 0.95],
  "1": [0, 0, 1],
  "2": [0, 0, -1],
  "3": [1, 0, 0],
  "4": [0, 1, 0.001],
};

/** The stage: hosts the 3D view, its labels and whatever is laid over it. */
export function Stage({ block, look, labels = [], cut, onPick, onPeel, hasLegend, children }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage3D | undefined>(undefined);
  const pressed = useRef<{ x: number; y: number } | undefined>(undefined);
  const [places, setPlaces] = useState<Record<string, { x: number; y: number }>>({});
  const [gauge, setGauge] = useState<Gauge>();

  useEffect(() => {
    if (!host.current) return;
    const made = new Stage3D(host.current);
    stage.current = made;
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest("input, textarea, [role=dialog]");
      const view = VIEWS[event.key.toLowerCase()];
      if (view && !typing && !event.ctrlKey && !event.metaKey) made.frame(new THREE.Vector3(...view));
    };
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
      made.dispose();
      stage.current = undefined;
    };
  }, []);

  useEffect(() => {
    if (block) stage.current?.show(block, look);
  }, [block, look]);

  useEffect(() => stage.current?.cutAway(cut), [cut]);

  useEffect(() => {
    const place = () => {
      setGauge(stage.current?.gauge());
      setPlaces(
        Object.fromEntries(
          labels.map((l) => [l.id, stage.current?.project(new THREE.Vector3(...l.at)) ?? { x: 0, y: 0 }]),
        ),
      );
    };
    place();
    return stage.current?.onDraw(place);
  }, [labels]);

  return (
    <div
      className="relative h-full w-full overflow-hidden bg-stage"
      data-testid="stage"
      data-ready={block ? "yes" : "no"}
    >
      <div
        ref={host}
        className="absolute inset-0"
        onPointerDown={(e) => (pressed.current = { x: e.clientX, y: e.clientY })}
        onPointerUp={(e) => {
          const moved = pressed.current && Math.hypot(e.clientX - pressed.current.x, e.clientY - pressed.current.y);
          if (moved === undefined || moved >= 4) return;
          if (e.button === 0) onPick?.(stage.current?.pick(e.clientX, e.clientY));
          if (e.button !== 2 || !onPeel) return;
          const area = e.currentTarget.getBoundingClientRect();
          onPeel(stage.current?.peel(e.clientX, e.clientY) ?? [], {
            x: e.clientX - area.left,
            y: e.clientY - area.top,
          });
        }}
      />
      {labels.map((label) => {
        const at = places[label.id];
        return at ? (
          <div
            key={label.id}
            className={`pointer-events-none absolute flex -translate-y-1/2 items-center gap-1 text-[13px] whitespace-nowrap ${label.tone === "load" ? "text-ink" : "text-quiet"}`}
            style={{ left: at.x, top: at.y }}
          >
            <span className="inline-block h-2 w-2 rounded-full bg-ink" />
            <span className="rounded bg-stage/80 px-1">{label.text}</span>
          </div>
        ) : null;
      })}
      {block && gauge && <StageGauge gauge={gauge} isOverLegend={hasLegend} />}
      {!block && <p className="absolute inset-0 grid place-items-center text-quiet">Drawing the parts…</p>}
      {children}
    </div>
  );
}

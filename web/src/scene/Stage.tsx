import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";

import type { SceneBlock } from "@/api/sceneBlock";

import type { Sign, Vec } from "./drawSigns";
import { type Placed, placeLabels } from "./labels";
import { type Cut, type Gauge, type Pick, Stage3D, type StageLook } from "./Stage3D";
import { StageGauge } from "./StageGauge";

export type StageLabel = { id: string; at: Vec; text: string; tone: Sign["tone"] };
const TONES: Record<Sign["tone"], string> = { load: "text-ink", hold: "text-quiet", tight: "text-copper" };
/** Room between a point and its label, in pixels. */
const BESIDE = 8;
/** How long the pointer rests before what is under it is named. */
const REST_MS = 90;
const NO_SIGNS: Sign[] = [];
const NO_LABELS: StageLabel[] = [];

type Props = {
  block: SceneBlock | undefined;
  /** Whether another block is on its way. */
  isStale?: boolean;
  look: StageLook;
  labels?: StageLabel[];
  /** What holds and loads, drawn where it does. */
  signs?: Sign[];
  /** A press on the name of a sign. */
  onSign?: (id: string) => void;
  cut?: Cut;
  onPick?: (pick: Pick | undefined) => void;
  /** What is said of what lies under the pointer, beside it. */
  nameOf?: (pick: Pick) => string;
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
export function Stage({
  block,
  isStale = false,
  look,
  labels = NO_LABELS,
  signs = NO_SIGNS,
  onSign,
  cut,
  onPick,
  nameOf,
  onPeel,
  hasLegend,
  children,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage3D | undefined>(undefined);
  const pressed = useRef<{ x: number; y: number } | undefined>(undefined);
  const [places, setPlaces] = useState<Record<string, { point: Placed; text: Placed }>>({});
  const [gauge, setGauge] = useState<Gauge>();
  const [hovered, setHovered] = useState<Placed & { text: string }>();
  const looking = useRef(0);
  const [isBlind, setIsBlind] = useState(false);

  useEffect(() => {
    if (!host.current) return;
    let made: Stage3D;
    try {
      made = new Stage3D(host.current);
    } catch {
      return setIsBlind(true);
    }
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

  useEffect(() => {
    if (block) stage.current?.mark(signs);
  }, [block, signs]);

  useEffect(() => stage.current?.cutAway(cut), [cut]);

  const named: StageLabel[] = useMemo(() => [...labels, ...signs.filter((s) => s.text)], [labels, signs]);

  useEffect(() => {
    const place = () => {
      setGauge(stage.current?.gauge());
      const points = named.map((l) => ({
        id: l.id,
        text: l.text,
        ...(stage.current?.project(new THREE.Vector3(...l.at)) ?? { x: 0, y: 0 }),
      }));
      const texts = placeLabels(points);
      setPlaces(Object.fromEntries(points.map((p) => [p.id, { point: p, text: texts[p.id] ?? p }])));
    };
    place();
    return stage.current?.onDraw(place);
  }, [named]);

  return (
    <div
      className="relative h-full w-full overflow-hidden bg-stage"
      data-testid="stage"
      data-ready={block && !isStale ? "yes" : "no"}
    >
      <div
        ref={host}
        className="absolute inset-0"
        onPointerDown={(e) => {
          pressed.current = { x: e.clientX, y: e.clientY };
          setHovered(undefined);
        }}
        onPointerMove={({ clientX, clientY, buttons, currentTarget }) => {
          if (!nameOf) return;
          window.clearTimeout(looking.current);
          if (buttons) return;
          const area = currentTarget.getBoundingClientRect();
          // Looked at when the pointer rests: a large assembly takes a moment to be searched.
          looking.current = window.setTimeout(() => {
            const found = stage.current?.pick(clientX, clientY);
            setHovered(found && { x: clientX - area.left, y: clientY - area.top, text: nameOf(found) });
          }, REST_MS);
        }}
        onPointerLeave={() => {
          window.clearTimeout(looking.current);
          setHovered(undefined);
        }}
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
      <svg className="pointer-events-none absolute h-full w-full text-faint" aria-hidden>
        {Object.entries(places).map(
          ([id, { point, text }]) =>
            point.y !== text.y && (
              <line key={id} x1={point.x} y1={point.y} x2={text.x + BESIDE} y2={text.y} stroke="currentColor" />
            ),
        )}
      </svg>
      {named.map((label) => {
        const at = places[label.id];
        const isSign = onSign && signs.some((s) => s.id === label.id);
        const look = `absolute -translate-y-1/2 rounded bg-stage/80 px-1 text-[13px] whitespace-nowrap ${TONES[label.tone]}`;
        if (!at) return null;
        const style = { left: at.text.x + BESIDE, top: at.text.y };
        return isSign ? (
          <button
            key={label.id}
            type="button"
            data-sign={label.id}
            className={`${look} hover:bg-verdigris-pale`}
            style={style}
            onClick={() => onSign(label.id)}
          >
            {label.text}
          </button>
        ) : (
          <span key={label.id} className="pointer-events-none">
            <span
              className="absolute h-2 w-2 -translate-1/2 rounded-full bg-ink"
              style={{ left: at.point.x, top: at.point.y }}
            />
            <span className={look} style={style}>
              {label.text}
            </span>
          </span>
        );
      })}
      {hovered && (
        <span
          data-testid="under-pointer"
          className="pointer-events-none absolute z-10 rounded bg-ink px-1.5 text-[12.5px] whitespace-nowrap text-white"
          style={{ left: hovered.x + 14, top: hovered.y + 16 }}
        >
          {hovered.text}
        </span>
      )}
      {block && gauge && <StageGauge gauge={gauge} isOverLegend={hasLegend} />}
      {isBlind ? (
        <p role="alert" className="absolute inset-0 grid place-items-center px-8 text-center">
          The parts cannot be drawn: this browser has no WebGL 2, or it is switched off. Everything else works.
        </p>
      ) : (
        !block && <p className="absolute inset-0 grid place-items-center text-quiet">Drawing the parts…</p>
      )}
      {children}
    </div>
  );
}

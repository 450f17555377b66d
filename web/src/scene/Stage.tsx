import { type ReactNode, type RefObject, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";

import type { SceneBlock } from "@/api/sceneBlock";
import { Field } from "@/ui/Field";

import type { Sign, Vec } from "./drawSigns";
import { type Placed, placeLabels } from "./labels";
import { type Cut, type Gauge, type Offset, type Pick, type Read, Stage3D, type StageLook } from "./Stage3D";
import { StageGauge } from "./StageGauge";
import type { Strokes } from "./strokes";
import type { ViewTie } from "./viewTie";

export type StageCamera = (width: number) => {
  still: string;
  labels: { text: string; x: number; y: number }[];
  towards: Vec;
  up: Vec;
};
export type StageLabel = { id: string; at: Vec; text: string; tone: Sign["tone"] };
const TONES: Record<Sign["tone"], string> = { load: "text-ink", hold: "text-quiet", tight: "text-copper" };
/** Room between a point and its label, in pixels. */
const BESIDE = 8;
/** How long the pointer rests before what is under it is named. */
const REST_MS = 90;
const NO_SIGNS: Sign[] = [];
const NO_LABELS: StageLabel[] = [];
const NO_LINES: Vec[][] = [];

/** Keys that were held with a click: more is taken (shift), or what continues it too (alt). */
export type Keys = { more: boolean; smooth: boolean };

/** A body that is moved by the pointer: where it comes to rest of where the pointer would have it, and what is said. */
export type Hand = {
  body: string;
  settle: (by: Offset, axis: number, reach: number) => { by: Offset; says: string };
  onMoved: (by: Offset) => void;
};

/** How near (pixels) something must come to what it lines up with. */
const REACH = 9;

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
  /** Whether what the look moves swings to and fro. */
  sways?: boolean;
  onPick?: (pick: Pick | undefined, keys: Keys) => void;
  /** The sign whose name is an entry now. */
  entry?: {
    id: string;
    label: string;
    value: string;
    onCommit: (text: string) => Promise<unknown>;
    onDone: () => void;
  };
  /** Bodies in a frame that was drawn with the shift key held. */
  onBand?: (bodies: string[]) => void;
  hand?: Hand;
  /** What is said of what lies under the pointer, beside it. */
  nameOf?: (pick: Pick) => string;
  /** What is read of the field under the pointer, said beside it; a press takes it instead of a face. */
  readOf?: (read: Read) => string | undefined;
  onRead?: (read: Read | undefined) => void;
  /** Lines over everything, by their points. */
  lines?: Vec[][];
  /** Arrows and crosses over everything. */
  strokes?: Strokes | undefined;
  /** Other stages that are looked at together with this one. */
  tie?: ViewTie | undefined;
  /** A place that the view goes to when it is another one. */
  focus?: { at: Vec; number: number };
  /** A press of the right button that turned nothing: all faces under it, and where it was. */
  onPeel?: (picks: Pick[], at: { x: number; y: number }) => void;
  /** Takes pictures of the stage: a still of so many pixels, and its labels with where they stand (shares of it). */
  camera?: RefObject<StageCamera | null>;
  /** What is dragged along a direction. */
  grip?: Grip | undefined;
  /** Whether labels can be dragged to where they are read best. */
  movesLabels?: boolean;
  /** Whether a legend stands in the corner of the axes. */
  hasLegend?: boolean;
  children?: ReactNode;
};

/** A place (mm) that is dragged along a unit vector; `onMoved` hears how far (mm) since it was last heard. */
export type Grip = { at: Vec; along: Vec; onMoved: (by: number) => void };

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
  sways = false,
  onPick,
  entry,
  onBand,
  hand,
  nameOf,
  readOf,
  onRead,
  lines = NO_LINES,
  strokes,
  tie,
  focus,
  camera,
  onPeel,
  hasLegend,
  grip,
  movesLabels = false,
  children,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage3D | undefined>(undefined);
  const pressed = useRef<{ x: number; y: number } | undefined>(undefined);
  const [places, setPlaces] = useState<Record<string, { point: Placed; text: Placed }>>({});
  /** How far labels were dragged (px), by their ids. */
  const [byHand, setByHand] = useState<Record<string, Placed>>({});
  const [gripped, setGripped] = useState<{ at: Placed; step: Placed }>();
  const dragged = useRef<Placed | undefined>(undefined);
  const [gauge, setGauge] = useState<Gauge>();
  const [hovered, setHovered] = useState<Placed & { text: string }>();
  const looking = useRef(0);
  const [isBlind, setIsBlind] = useState(false);
  const held = useRef<{ from: THREE.Vector3; by: Offset } | undefined>(undefined);
  const [band, setBand] = useState<{ from: Placed; to: Placed }>();

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

  const named: StageLabel[] = useMemo(() => [...labels, ...signs.filter((s) => s.text)], [labels, signs]);

  useEffect(() => {
    if (block) stage.current?.show(block, look);
  }, [block, look]);

  useEffect(() => {
    if (block) stage.current?.mark(signs);
  }, [block, signs]);

  useEffect(() => stage.current?.cutAway(cut), [cut]);
  useEffect(() => stage.current?.trace(lines, strokes), [lines, strokes]);
  useEffect(() => stage.current?.tieTo(tie), [tie]);
  useEffect(() => {
    if (!camera) return;
    camera.current = (width) => {
      const { clientWidth: w = 1, clientHeight: h = 1 } = host.current ?? {};
      const standing = named.flatMap(({ id, text }) => {
        const at = places[id]?.text;
        return at ? [{ text, x: (at.x + BESIDE) / w, y: at.y / h }] : [];
      });
      const { towards, up } = stage.current?.view() ?? { towards: [0, 0, 1] as Vec, up: [0, 1, 0] as Vec };
      return { still: stage.current?.picture(width) ?? "", labels: standing, towards, up };
    };
    return () => {
      camera.current = null;
    };
  }, [camera, named, places]);
  useEffect(() => {
    if (focus) stage.current?.goTo(focus.at);
  }, [focus]);

  useEffect(() => {
    if (!sways) return;
    const swung = stage.current;
    swung?.sway(true);
    return () => swung?.sway(false);
  }, [sways]);

  useEffect(() => {
    const place = () => {
      setGauge(stage.current?.gauge());
      const points = named.map((l) => ({
        id: l.id,
        text: l.text,
        ...(stage.current?.project(new THREE.Vector3(...l.at)) ?? { x: 0, y: 0 }),
      }));
      const texts = placeLabels(points);
      const moved = (id: string, { x, y }: Placed) => ({ x: x + (byHand[id]?.x ?? 0), y: y + (byHand[id]?.y ?? 0) });
      setPlaces(Object.fromEntries(points.map((p) => [p.id, { point: p, text: moved(p.id, texts[p.id] ?? p) }])));
    };
    place();
    return stage.current?.onDraw(place);
  }, [named, byHand]);

  const gripKey = JSON.stringify(grip && [grip.at, grip.along]);
  useEffect(() => {
    const [at, along] = (JSON.parse(gripKey ?? "null") ?? []) as Vec[];
    if (!at || !along) return setGripped(undefined);
    const place = () => {
      const made = stage.current;
      if (!made) return;
      const from = made.project(new THREE.Vector3(...at));
      const to = made.project(new THREE.Vector3(...at).add(new THREE.Vector3(...along)));
      setGripped({ at: from, step: { x: to.x - from.x, y: to.y - from.y } });
    };
    place();
    return stage.current?.onDraw(place);
  }, [gripKey, block]);

  return (
    <div
      className="relative h-full w-full overflow-hidden bg-stage"
      data-testid="stage"
      data-strokes={strokes?.lines.length ?? 0}
      data-ready={block && !isStale ? "yes" : "no"}
    >
      <div
        ref={host}
        className="absolute inset-0"
        onPointerDownCapture={(e) => {
          if (e.button !== 0) return;
          const gripped = hand && !e.shiftKey ? stage.current?.pick(e.clientX, e.clientY) : undefined;
          if (gripped && gripped.body === hand?.body) {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            held.current = { from: gripped.point, by: [0, 0, 0] };
            return;
          }
          if (!onBand || !e.shiftKey) return;
          // Without this the view would turn with the frame.
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          pressed.current = { x: e.clientX, y: e.clientY };
          setBand({ from: { x: e.clientX, y: e.clientY }, to: { x: e.clientX, y: e.clientY } });
        }}
        onPointerDown={(e) => {
          pressed.current = { x: e.clientX, y: e.clientY };
          setHovered(undefined);
        }}
        onPointerMove={({ clientX, clientY, buttons, currentTarget }) => {
          if (held.current && hand && block) {
            const met = stage.current?.onPlane(clientX, clientY, held.current.from);
            if (!met) return;
            const by = met.point.sub(held.current.from).toArray();
            const settled = hand.settle(by, met.axis, REACH / (stage.current?.gauge().pixelsPerMm ?? 1));
            held.current.by = settled.by;
            stage.current?.shift(block.bodies.map((b) => (b.name === hand.body ? settled.by : undefined)));
            const area = currentTarget.getBoundingClientRect();
            return setHovered({ x: clientX - area.left, y: clientY - area.top, text: settled.says });
          }
          if (band) return setBand({ ...band, to: { x: clientX, y: clientY } });
          if (!nameOf && !readOf) return;
          window.clearTimeout(looking.current);
          if (buttons) return;
          const area = currentTarget.getBoundingClientRect();
          // Looked at when the pointer rests: a large assembly takes a moment to be searched.
          looking.current = window.setTimeout(() => {
            const { current: made } = stage;
            const read = readOf && made?.read(clientX, clientY);
            const picked = nameOf && made?.pick(clientX, clientY);
            const text = (read && readOf(read)) ?? (picked && nameOf(picked));
            setHovered(text ? { x: clientX - area.left, y: clientY - area.top, text } : undefined);
          }, REST_MS);
        }}
        onPointerLeave={() => {
          window.clearTimeout(looking.current);
          setHovered(undefined);
        }}
        onPointerUp={(e) => {
          if (held.current) {
            const { by } = held.current;
            held.current = undefined;
            setHovered(undefined);
            return by.some((c) => c !== 0) ? hand?.onMoved(by) : undefined;
          }
          const moved = pressed.current && Math.hypot(e.clientX - pressed.current.x, e.clientY - pressed.current.y);
          setBand(undefined);
          if (band && moved && moved >= 4)
            return onBand?.(stage.current?.within(band.from, { x: e.clientX, y: e.clientY }) ?? []);
          if (moved === undefined || moved >= 4) return;
          const keys = { more: e.shiftKey, smooth: e.altKey };
          if (e.button === 0 && onRead) return onRead(stage.current?.read(e.clientX, e.clientY));
          if (e.button === 0) onPick?.(stage.current?.pick(e.clientX, e.clientY), keys);
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
            (point.y !== text.y || byHand[id]) && (
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
        if (entry?.id === label.id)
          return (
            <div key={label.id} className="absolute z-10 -translate-y-1/2 rounded bg-paper px-1 shadow" style={style}>
              <Field {...entry} hideLabel autoFocus />
            </div>
          );
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
          <span key={label.id} data-label={label.id} className="pointer-events-none">
            <span
              className="absolute h-2 w-2 -translate-1/2 rounded-full bg-ink"
              style={{ left: at.point.x, top: at.point.y }}
            />
            <span
              className={`${look} ${movesLabels ? "pointer-events-auto cursor-grab touch-none" : ""}`}
              style={style}
              {...(movesLabels && {
                title: "Drag it to where it is read best",
                onPointerDown: (e) => e.currentTarget.setPointerCapture(e.pointerId),
                onPointerMove: ({ buttons, movementX: x, movementY: y }) => {
                  if (!buttons) return;
                  setByHand((before) => {
                    const from = before[label.id] ?? { x: 0, y: 0 };
                    return { ...before, [label.id]: { x: from.x + x, y: from.y + y } };
                  });
                },
              })}
            >
              {label.text}
            </span>
          </span>
        );
      })}
      {grip && gripped && (
        <button
          type="button"
          aria-label="Drag the section"
          title="Drag the section"
          data-testid="grip"
          className="absolute z-10 h-5 w-5 -translate-1/2 cursor-grab touch-none rounded-full border-2 border-verdigris bg-paper/80 shadow"
          style={{ left: gripped.at.x, top: gripped.at.y }}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            dragged.current = { x: e.clientX, y: e.clientY };
          }}
          onPointerUp={() => (dragged.current = undefined)}
          onPointerMove={({ clientX: x, clientY: y }) => {
            const { current: from } = dragged;
            const { step } = gripped;
            const size = step.x ** 2 + step.y ** 2;
            // Seen end on, it has no way across the screen.
            if (!from || size < 1e-6) return;
            dragged.current = { x, y };
            grip.onMoved(((x - from.x) * step.x + (y - from.y) * step.y) / size);
          }}
        />
      )}
      {band && host.current && (
        <span
          className="pointer-events-none absolute border border-verdigris bg-verdigris/10"
          style={frameOf(band, host.current)}
        />
      )}
      {hovered && (
        <span
          data-testid="under-pointer"
          className="pointer-events-none absolute z-10 rounded bg-ink px-1.5 text-[12.5px] whitespace-nowrap text-white"
          style={besidePointer(hovered, host.current?.clientWidth ?? 0)}
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

function frameOf({ from, to }: { from: Placed; to: Placed }, host: HTMLElement) {
  const area = host.getBoundingClientRect();
  return {
    left: Math.min(from.x, to.x) - area.left,
    top: Math.min(from.y, to.y) - area.top,
    width: Math.abs(to.x - from.x),
    height: Math.abs(to.y - from.y),
  };
}

/** Right of the pointer, or left of it where there is more room. */
const besidePointer = ({ x, y }: Placed, width: number) =>
  x < width / 2 ? { left: x + 14, top: y + 16 } : { right: width - x + 8, top: y + 16 };

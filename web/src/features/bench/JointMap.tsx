import { useEffect, useRef, useState } from "react";

import type { StudyDocument } from "@/api/client";
import { force } from "@/api/units";
import { type Selected, isSelected, useSelection, withPart } from "@/features/selection";
import { partColour } from "@/scene/ramp";
import { COLOURS } from "@/ui/colours";

import type { JointGraph, MapFrame, MapNode } from "./jointGraph";
import { type Box, type MapLayout, useMapLayout } from "./mapLayout";

type Props = {
  study: StudyDocument;
  graph: JointGraph;
  /** Force (N) that goes through each pair: lines are as wide as it is large, and it stands in place of the law. */
  flow?: Record<string, number>;
};

/** Widths of lines that carry nothing and the most. */
const FLOWS = { least: 1, most: 11 };

const EMPTY: MapLayout = { width: 0, height: 0, boxes: {}, lines: {} };
/** How far the map is drawn down or up, and by how much at a time. */
const ZOOM = { least: 0.2, most: 1.6, step: 1.25 };
const READABLE = 0.8;
const FRAMES: Record<MapNode["state"], string> = {
  held: "border-ink",
  loose: "border-2 border-dashed border-vermilion",
  friction: "border-dashed border-copper",
  asleep: "border-dashed border-faint text-quiet",
};
const DETAILS: Partial<Record<MapNode["state"], string>> = {
  loose: "loose",
  friction: "friction only",
  asleep: "left out",
};

/** The assembly as a graph of parts, pairs, fasteners and ground; drawn, moved and scaled as a map. */
export function JointMap({ study, graph, flow }: Props) {
  const most = Math.max(...Object.values(flow ?? {}), 1e-9);
  const carried = (joins: JointGraph["links"][number]["joins"]) =>
    joins.reduce((sum, j) => sum + (j.kind === "pair" ? (flow?.[j.id] ?? 0) : 0), 0);
  const wide = (joins: JointGraph["links"][number]["joins"]) =>
    FLOWS.least + (FLOWS.most - FLOWS.least) * Math.min(carried(joins) / most, 1);
  const { selected, select } = useSelection();
  const [chosen, setZoom] = useState<number>();
  const sheet = useRef<HTMLDivElement>(null);
  const { width, height, boxes, lines } = useMapLayout(graph) ?? EMPTY;
  const shown = (kind: Selected["kind"], id: string) => isSelected(selected, kind, id);
  const index = (id: string) => (study.parts ?? []).findIndex((p) => p.id === id);
  // Unless somebody has chosen a scale, the whole width is seen as far as it can still be read; of a flow all of it.
  const whole = flow && width ? wholeScale(sheet.current, width, height) : undefined;
  const zoom = chosen ?? whole ?? Math.min(1, Math.max(READABLE, (sheet.current?.clientWidth ?? 0) / (width || 1)));
  const looked = boxes[`part/${selected.id}`] ?? boxes[`part/${graph.nodes[0]?.id}`];
  const at = looked && `${looked.x} ${looked.y}`;
  useEffect(() => {
    if (!sheet.current || !at) return;
    const [x = 0, y = 0] = at.split(" ").map((v) => Number(v) * zoom);
    const { scrollLeft, scrollTop, clientWidth, clientHeight } = sheet.current;
    const isSeen =
      x >= scrollLeft && x < scrollLeft + clientWidth - 60 && y >= scrollTop && y < scrollTop + clientHeight - 40;
    if (!isSeen) sheet.current.scrollTo({ left: x - clientWidth / 3, top: y - clientHeight / 3 });
  }, [at, zoom]);
  const scaled = (next: number) => setZoom(Math.min(ZOOM.most, Math.max(ZOOM.least, next)));

  return (
    <div className="relative min-h-0 flex-1">
      <div
        ref={sheet}
        className="h-full cursor-grab overflow-auto active:cursor-grabbing"
        onPointerMove={(e) => {
          if (e.buttons === 1) sheet.current?.scrollBy(-e.movementX, -e.movementY);
        }}
        onWheel={(e) => e.ctrlKey && scaled(zoom * (e.deltaY < 0 ? ZOOM.step : 1 / ZOOM.step))}
      >
        <nav aria-label="Joint map" className="relative mx-auto" style={{ height: height * zoom, width: width * zoom }}>
          <div className="absolute origin-top-left" style={{ transform: `scale(${zoom})` }}>
            {graph.frames.map((frame) => {
              const box = frameBox(frame, graph, boxes);
              const on = shown("joint", frame.id);
              return (
                <button
                  key={frame.id}
                  type="button"
                  data-joint={frame.id}
                  title={frame.name}
                  onClick={() => select({ kind: "joint", id: frame.id })}
                  className={`absolute rounded-lg border border-dashed text-left ${on ? "border-2 border-verdigris bg-verdigris-pale/60" : "border-verdigris/70 bg-verdigris-pale/25 hover:bg-verdigris-pale/50"}`}
                  style={placed(box)}
                >
                  <span className="absolute top-0 left-1.5 max-w-full truncate text-[11.5px] leading-4 font-semibold text-verdigris">
                    {frame.name}
                  </span>
                </button>
              );
            })}
            <svg className="pointer-events-none absolute" width={width} height={height} aria-hidden>
              {graph.links.map((link) => {
                const on = link.joins.some((j) => shown(j.kind, j.id));
                const isAsleep = link.joins.every((j) => j.isAsleep);
                const colour = on ? COLOURS.verdigris : isAsleep ? COLOURS.faint : COLOURS.ink;
                const width = flow ? wide(link.joins) : on ? 3 : 1.4;
                return (
                  <Line
                    key={link.key}
                    points={lines[`pairs/${link.key}`]}
                    colour={flow && !on ? COLOURS.verdigrisMid : colour}
                    width={width}
                  />
                );
              })}
              {graph.grounds.map((ground) => (
                <GroundSign
                  key={ground.part}
                  box={boxes[`ground/${ground.part}`]}
                  points={lines[`holds/${ground.part}`]}
                />
              ))}
              {graph.loads.map((load) => (
                <Arrow key={load.id} points={lines[`acts/${load.id}`]} />
              ))}
            </svg>
            {graph.nodes.map((n) => (
              <button
                key={n.id}
                type="button"
                data-part={n.id}
                data-state={n.state}
                title={n.name}
                onClick={(e) => select(e.shiftKey ? withPart(selected, n.id) : { kind: "part", id: n.id })}
                className={`absolute flex items-center gap-2 rounded-md border bg-paper px-2 text-left ${shown("part", n.id) ? "border-2 border-verdigris" : FRAMES[n.state]}`}
                style={placed(boxes[`part/${n.id}`])}
              >
                <span
                  className="h-6 w-2 shrink-0 rounded-sm"
                  style={{ background: n.state === "asleep" ? COLOURS.line : partColour(index(n.id), n.isBolt) }}
                />
                <span className="min-w-0">
                  <span className="block truncate leading-4 font-semibold">
                    {n.name}
                    {n.copies > 1 && ` ×${n.copies}`}
                  </span>
                  <span className="block truncate text-[12px] leading-4 text-quiet">
                    {DETAILS[n.state] ?? n.detail}
                  </span>
                </span>
              </button>
            ))}
            {graph.links.map((link) => (
              <div
                key={link.key}
                className="absolute flex flex-col items-center justify-evenly"
                style={placed(boxes[`pairs/${link.key}`])}
              >
                {link.joins.map((join) => (
                  <button
                    key={`${join.kind}/${join.id}`}
                    type="button"
                    {...{ [`data-${join.kind}`]: join.id }}
                    title={join.name}
                    onClick={() => select({ kind: join.kind, id: join.id })}
                    className={`max-w-full truncate rounded-full border px-2 text-[12px] leading-[18px] ${shown(join.kind, join.id) ? "border-verdigris bg-verdigris-pale text-verdigris" : join.isAsleep ? "border-dashed border-faint bg-paper text-quiet" : "border-ink/60 bg-paper hover:bg-verdigris-pale"}`}
                  >
                    {flow && join.kind === "pair" && flow[join.id] !== undefined ? force(flow[join.id]!) : join.text}
                  </button>
                ))}
              </div>
            ))}
            {graph.grounds.map((ground) => (
              <div
                key={ground.part}
                className="absolute flex flex-col justify-end"
                style={placed(boxes[`ground/${ground.part}`])}
              >
                {ground.holds.map((hold) => (
                  <button
                    key={`${hold.kind}/${hold.id}`}
                    type="button"
                    title={hold.name}
                    onClick={() => select({ kind: hold.kind, id: hold.id })}
                    className={`truncate rounded px-1 text-[12.5px] leading-[18px] ${shown(hold.kind, hold.id) ? "bg-verdigris-pale" : "text-quiet hover:text-ink"}`}
                  >
                    {hold.name}
                  </button>
                ))}
              </div>
            ))}
            {graph.loads.map((load) => (
              <button
                key={load.id}
                type="button"
                title={load.name}
                onClick={() => select({ kind: "load", id: load.id })}
                className={`absolute rounded px-1 text-center leading-[15px] ${shown("load", load.id) ? "bg-verdigris-pale" : "hover:bg-paper"}`}
                style={placed(boxes[`load/${load.id}`])}
              >
                <span className="block truncate text-[13px]">{load.name}</span>
                <span className="block truncate text-[12px] text-quiet">{load.text}</span>
              </button>
            ))}
          </div>
        </nav>
      </div>
      <div
        role="group"
        aria-label="Scale of the map"
        className="absolute right-2 bottom-2 flex rounded border border-line bg-paper"
      >
        {(
          [
            ["Smaller", "−", () => scaled(zoom / ZOOM.step)],
            ["The whole map", "whole", () => scaled(wholeScale(sheet.current, width, height))],
            ["Larger", "+", () => scaled(zoom * ZOOM.step)],
          ] as const
        ).map(([label, sign, onClick]) => (
          <button
            key={label}
            type="button"
            aria-label={label}
            className="px-2 hover:bg-verdigris-pale"
            onClick={onClick}
          >
            {sign}
          </button>
        ))}
      </div>
    </div>
  );
}

/** The scale at which the whole map is seen, not above full size. */
function wholeScale(sheet: HTMLElement | null, width: number, height: number): number {
  return sheet && width ? Math.min(1, sheet.clientWidth / width, sheet.clientHeight / height) : 1;
}

/** Room round the parts of a joint, and above them for its name (px). */
const ROUND = { side: 7, top: 18 };

/** The box round what a joint joins; where others stand in it, round what it has made. */
function frameBox({ parts, made }: MapFrame, graph: JointGraph, boxes: MapLayout["boxes"]): Box | undefined {
  const around = (ids: string[]) => {
    const all = ids.flatMap((id) => boxes[`part/${id}`] ?? []);
    if (!all.length) return undefined;
    const left = Math.min(...all.map((b) => b.x)) - ROUND.side;
    const top = Math.min(...all.map((b) => b.y)) - ROUND.top;
    const right = Math.max(...all.map((b) => b.x + b.width)) + ROUND.side;
    const bottom = Math.max(...all.map((b) => b.y + b.height)) + ROUND.side;
    return { x: left, y: top, width: right - left, height: bottom - top };
  };
  const whole = around(parts);
  const isInside = (box: Box | undefined) =>
    !!box &&
    !!whole &&
    box.x < whole.x + whole.width &&
    box.x + box.width > whole.x &&
    box.y < whole.y + whole.height &&
    box.y + box.height > whole.y;
  const others = graph.nodes.filter((n) => !parts.includes(n.id));
  return others.some((n) => isInside(boxes[`part/${n.id}`])) ? around(made) : whole;
}

/** Where something stands; what has no place yet is not seen. */
const placed = (box: Box | undefined) =>
  box ? { left: box.x, top: box.y, width: box.width, height: box.height } : { display: "none" };

type Points = { x: number; y: number }[] | undefined;

function Line({ points = [], colour, width }: { points: Points; colour: string; width: number }) {
  return (
    <polyline points={points.map((p) => `${p.x},${p.y}`).join(" ")} fill="none" stroke={colour} strokeWidth={width} />
  );
}

/** The line of a load, with a head where it meets the part. */
function Arrow({ points }: { points: Points }) {
  const end = points?.at(-1);
  return (
    <>
      <Line points={points} colour={COLOURS.ink} width={1.2} />
      {end && <path d={`M${end.x} ${end.y} l-4 -9 h8 z`} fill={COLOURS.ink} />}
    </>
  );
}

function GroundSign({ box, points }: { box: Box | undefined; points: Points }) {
  if (!box) return null;
  const [x, y] = [box.x + box.width / 2, box.y];
  const ticks = Array.from({ length: 7 }, (_, i) => `M${x - 28 + i * 10} ${y} l-7 9`).join(" ");
  return (
    <>
      <Line points={points} colour={COLOURS.ink} width={1.2} />
      <path d={`M${x - 32} ${y} H${x + 32} ${ticks}`} stroke={COLOURS.ink} fill="none" />
    </>
  );
}

import { useEffect, useRef, useState } from "react";

import type { Drawing, DrawingPlane } from "@/api/client";
import { COLOURS } from "@/ui/colours";

import {
  type Chosen,
  type Corner,
  type Point,
  type Snapped,
  type Tool,
  bow,
  gridFor,
  placesOf,
  snapped,
} from "./drawing";

type Props = {
  drawing: Drawing | undefined;
  /** Lines and circles of the face that is drawn on. */
  plane?: DrawingPlane | undefined;
  tool: Tool;
  /** Step (mm) that the pointer keeps to; by the size of the view where none is given. */
  grid: number | undefined;
  /** The corners of the ring that is being drawn. */
  corners: readonly Corner[];
  arc: Corner["arc"];
  chosen: Chosen;
  /** Which outlines are circles. */
  circles: readonly number[];
  /** Whether what lies left of x = 0 is barred, as it is for what is turned. */
  isTurned: boolean;
  onChoose: (chosen: Chosen) => void;
  onCorner: (at: Point) => void;
  onClose: () => void;
  onBox: (a: Point, b: Point) => void;
  onCircle: (centre: Point, diameter: number) => void;
  /** The end of an edge was dragged to a place. */
  onDrag: (outline: number, edge: number, to: Point) => void;
};

/** Size of the sheet (px) until it is known. */
const ROOM = { width: 660, height: 470 };
/** How near the pointer must be (px) to what it snaps to. */
const REACH = 9;

type View = { x: number; y: number; scale: number };

/** What holds all that is drawn, with room about it: its middle (mm) and pixels to the mm. */
function fitting(points: readonly Point[], room: typeof ROOM): View {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min(
    (room.width - 110) / Math.max(right - left, 1e-6),
    (room.height - 110) / Math.max(high - low, 1e-6),
  );
  return { x: (left + right) / 2, y: (low + high) / 2, scale: Math.min(scale, 40) };
}

const plain = (value: number) => String(Number(value.toPrecision(6)));

/** Amid a line of points: between the two of a straight edge. */
function middleOf(points: readonly Point[]): Point {
  const [a, b] = [points[(points.length - 1) >> 1] ?? [0, 0], points[points.length >> 1] ?? [0, 0]];
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
}

const BARE: readonly Point[] = [
  [-40, -30],
  [80, 60],
];

/** The sheet that a drawing is drawn on: it zooms by the wheel, and the pointer keeps to places, lines and the grid. */
export function DrawingSheet(props: Props) {
  const { drawing, plane, tool, corners, arc, chosen, circles } = props;
  const sheet = useRef<SVGSVGElement>(null);
  const drawn: Point[] = [
    ...(drawing?.edges ?? []).flatMap((e) => e.points),
    ...(plane?.lines ?? []).flat(),
    ...corners.map((c) => c.at),
  ];
  const [room, setRoom] = useState(ROOM);
  const { width: WIDTH, height: HEIGHT } = room;
  const [view, setView] = useState<View>(() => fitting(drawn.length > 1 ? drawn : BARE, ROOM));
  const [pointer, setPointer] = useState<Snapped>();
  const [begun, setBegun] = useState<Point>();
  const held = useRef<{ outline: number; edge: number } | { x: number; y: number; view: View }>(undefined);
  const hasBegun = (drawing?.edges.length ?? 0) + (plane?.lines?.length ?? 0) > 0;
  // What is there already is fitted in when it comes; what is drawn by hand does not move under the pointer.
  const fitted = useRef(false);
  useEffect(() => {
    if (!hasBegun || fitted.current) return;
    fitted.current = true;
    if (drawn.length > 1) setView(fitting(drawn, room));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when there is something
  }, [hasBegun]);
  useEffect(() => setBegun(undefined), [tool]);
  useEffect(() => {
    const observed = sheet.current;
    if (!observed) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry?.contentRect ?? ROOM;
      if (width > 0 && height > 0) setRoom({ width, height });
    });
    observer.observe(observed);
    return () => observer.disconnect();
  }, []);

  const px = (p: Point): [number, number] => [
    WIDTH / 2 + (p[0] - view.x) * view.scale,
    HEIGHT / 2 - (p[1] - view.y) * view.scale,
  ];
  const path = (points: readonly Point[]) => points.map((p) => px(p).join(",")).join(" ");
  const grid = props.grid ?? gridFor(WIDTH / view.scale, 200);
  const step = Math.max(gridFor(WIDTH / view.scale, 40), grid);
  const raw = (e: { clientX: number; clientY: number }): Point => {
    const box = sheet.current?.getBoundingClientRect() ?? { left: 0, top: 0, width: WIDTH, height: HEIGHT };
    const x = ((e.clientX - box.left) * WIDTH) / (box.width || WIDTH);
    const y = ((e.clientY - box.top) * HEIGHT) / (box.height || HEIGHT);
    return [view.x + (x - WIDTH / 2) / view.scale, view.y - (y - HEIGHT / 2) / view.scale];
  };
  const places: Point[] = [
    ...placesOf(drawing),
    ...corners.map((c) => c.at),
    ...(plane?.lines ?? []).flat(),
    ...(plane?.circles ?? []).map((c) => c.centre),
  ];
  const meant = (e: { clientX: number; clientY: number }): Snapped => {
    const from = [corners.at(-1)?.at, corners[0]?.at, begun].filter((p): p is Point => !!p);
    return snapped(raw(e), REACH / view.scale, grid, places, from);
  };
  const press = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const { at } = meant(e);
    if (tool === "choose") {
      held.current = { x: e.clientX, y: e.clientY, view };
      props.onChoose(undefined);
    } else if (tool === "ring") {
      const [first] = corners;
      const closes = first && corners.length > 1 && Math.hypot(at[0] - first.at[0], at[1] - first.at[1]) < 1e-9;
      if (closes) props.onClose();
      else props.onCorner(at);
    } else if (!begun) setBegun(at);
    else {
      const away = Math.hypot(at[0] - begun[0], at[1] - begun[1]);
      setBegun(undefined);
      if (away === 0) return;
      if (tool === "box") props.onBox(begun, at);
      else props.onCircle(begun, Math.max(grid, Math.round((2 * away) / grid) * grid));
    }
  };
  const move = (e: React.PointerEvent) => {
    const now = held.current;
    if (now && "view" in now) {
      const [dx, dy] = [e.clientX - now.x, e.clientY - now.y];
      setView({ ...now.view, x: now.view.x - dx / now.view.scale, y: now.view.y + dy / now.view.scale });
      return;
    }
    const next = meant(e);
    setPointer(next);
    if (now) props.onDrag(now.outline, now.edge, next.at);
  };
  const zoom = (e: React.WheelEvent) => {
    const p = raw(e);
    const factor = Math.exp(-e.deltaY / 500);
    setView({ scale: view.scale * factor, x: p[0] + (view.x - p[0]) / factor, y: p[1] + (view.y - p[1]) / factor });
  };
  const half = { x: WIDTH / 2 / view.scale, y: HEIGHT / 2 / view.scale };
  const lines = (middle: number, reach: number) => {
    const first = Math.ceil((middle - reach) / step);
    const count = Math.min(200, Math.floor((middle + reach) / step) - first + 1);
    return Array.from({ length: Math.max(0, count) }, (_, i) => (first + i) * step);
  };
  const axis = px([0, 0]);
  const last = corners.at(-1);
  return (
    <svg
      ref={sheet}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="application"
      aria-label="Drawing sheet"
      data-view={`${view.x} ${view.y} ${view.scale}`}
      className={`h-full w-full touch-none bg-bare select-none ${tool === "choose" ? "" : "cursor-crosshair"}`}
      onPointerDown={press}
      onPointerMove={move}
      onPointerUp={() => (held.current = undefined)}
      onPointerLeave={() => setPointer(undefined)}
      onWheel={zoom}
    >
      {lines(view.x, half.x).map((x) => (
        <line key={`x${x}`} x1={px([x, 0])[0]} x2={px([x, 0])[0]} y1={0} y2={HEIGHT} stroke={COLOURS.grid} />
      ))}
      {lines(view.y, half.y).map((y) => (
        <line key={`y${y}`} y1={px([0, y])[1]} y2={px([0, y])[1]} x1={0} x2={WIDTH} stroke={COLOURS.grid} />
      ))}
      {props.isTurned && <rect x={0} y={0} width={Math.max(0, axis[0])} height={HEIGHT} fill={COLOURS.panel} />}
      <line x1={0} x2={WIDTH} y1={axis[1]} y2={axis[1]} stroke={COLOURS.faint} />
      <line
        x1={axis[0]}
        x2={axis[0]}
        y1={0}
        y2={HEIGHT}
        stroke={props.isTurned ? COLOURS.verdigris : COLOURS.faint}
        strokeDasharray={props.isTurned ? "14 4 3 4" : undefined}
      />
      {(plane?.lines ?? []).map((line, i) => (
        <polyline key={i} points={path(line)} fill="none" stroke={COLOURS.stone} strokeWidth={1.5} />
      ))}
      {(drawing?.edges ?? []).map((e, i) => {
        const isChosen = chosen?.outline === e.outline && (chosen.edge === undefined || chosen.edge === e.edge);
        const isBad = drawing?.faults.some((f) => f.outline === e.outline && f.edges?.includes(e.edge));
        return (
          <g key={i}>
            <polyline
              points={path(e.points)}
              fill="none"
              stroke={isBad ? COLOURS.vermilion : isChosen ? COLOURS.copper : COLOURS.verdigris}
              strokeWidth={isChosen ? 3.5 : 2}
            />
            <polyline
              points={path(e.points)}
              fill="none"
              stroke="transparent"
              strokeWidth={12}
              aria-label={`Edge ${e.name}`}
              className={tool === "choose" ? "cursor-pointer" : "pointer-events-none"}
              onPointerDown={(event) => {
                event.stopPropagation();
                props.onChoose({ outline: e.outline, edge: e.edge });
              }}
            />
          </g>
        );
      })}
      {tool === "choose" &&
        (drawing?.edges ?? []).map((e, i) => {
          const end = e.points.at(-1);
          if (!end || e.is_corner || circles.includes(e.outline)) return null;
          const [x, y] = px(end);
          return (
            <circle
              key={i}
              cx={x}
              cy={y}
              r={4.5}
              fill={COLOURS.bare}
              stroke={COLOURS.verdigris}
              strokeWidth={1.5}
              className="cursor-move"
              onPointerDown={(event) => {
                event.stopPropagation();
                props.onChoose({ outline: e.outline, edge: e.edge });
                held.current = { outline: e.outline, edge: e.edge };
                sheet.current?.setPointerCapture?.(event.pointerId);
              }}
            />
          );
        })}
      {(drawing?.edges ?? []).map((e, i) => {
        if (
          chosen?.outline !== e.outline ||
          (circles.includes(e.outline) && i > 0 && drawing?.edges[i - 1]?.outline === e.outline)
        )
          return null;
        const [x, y] = px(middleOf(e.points));
        return (
          <text
            key={i}
            x={x}
            y={y - 5}
            fontSize="12"
            textAnchor="middle"
            fill={COLOURS.ink}
            stroke={COLOURS.bare}
            strokeWidth={3}
            paintOrder="stroke"
            className="pointer-events-none"
          >
            {e.radius == null
              ? plain(e.length)
              : circles.includes(e.outline)
                ? `⌀ ${plain(2 * e.radius)}`
                : `R ${plain(e.radius)}`}
          </text>
        );
      })}
      {corners.map((corner, i) => {
        const before = corners[i - 1];
        return (
          <g key={i} className="pointer-events-none">
            {before && (
              <polyline
                points={path(bow(before.at, corner.at, corner.arc))}
                fill="none"
                stroke={COLOURS.copper}
                strokeWidth={2}
              />
            )}
            <circle
              cx={px(corner.at)[0]}
              cy={px(corner.at)[1]}
              r={i ? 3.5 : 6}
              fill={COLOURS.bare}
              stroke={COLOURS.copper}
              strokeWidth={2}
            />
          </g>
        );
      })}
      {pointer && tool !== "choose" && (
        <g className="pointer-events-none">
          {last && (
            <polyline
              points={path(bow(last.at, pointer.at, arc))}
              fill="none"
              stroke={COLOURS.copperMid}
              strokeDasharray="5 4"
            />
          )}
          {begun && tool === "box" && (
            <polyline
              points={path([begun, [pointer.at[0], begun[1]], pointer.at, [begun[0], pointer.at[1]], begun])}
              fill="none"
              stroke={COLOURS.copperMid}
            />
          )}
          {begun && tool === "circle" && (
            <circle
              cx={px(begun)[0]}
              cy={px(begun)[1]}
              r={Math.hypot(pointer.at[0] - begun[0], pointer.at[1] - begun[1]) * view.scale}
              fill="none"
              stroke={COLOURS.copperMid}
            />
          )}
          <circle
            cx={px(pointer.at)[0]}
            cy={px(pointer.at)[1]}
            r={pointer.by === "place" ? 7 : 3}
            fill={pointer.by === "place" ? "none" : COLOURS.copper}
            stroke={COLOURS.copper}
          />
          <text x={10} y={HEIGHT - 10} fontSize="13" fill={COLOURS.ink}>
            {`x ${pointer.at[0].toFixed(3)}, y ${pointer.at[1].toFixed(3)} mm`}
            {last &&
              `   length ${Math.hypot(pointer.at[0] - last.at[0], pointer.at[1] - last.at[1]).toFixed(3)} mm at ${((Math.atan2(pointer.at[1] - last.at[1], pointer.at[0] - last.at[0]) * 180) / Math.PI).toFixed(1)}°`}
            {begun &&
              tool === "circle" &&
              `   diameter ${(2 * Math.hypot(pointer.at[0] - begun[0], pointer.at[1] - begun[1])).toFixed(3)} mm`}
          </text>
        </g>
      )}
      {(drawing?.faults ?? []).map((f, i) =>
        f.at ? (
          <circle
            key={i}
            cx={px(f.at)[0]}
            cy={px(f.at)[1]}
            r={10}
            fill="none"
            stroke={COLOURS.vermilion}
            strokeWidth={2.5}
          />
        ) : null,
      )}
      <text x={WIDTH - 10} y={HEIGHT - 10} fontSize="12" textAnchor="end" fill={COLOURS.quiet}>
        {`lines every ${Number(step.toPrecision(3))} mm, pointer keeps to ${Number(grid.toPrecision(3))} mm`}
      </text>
    </svg>
  );
}

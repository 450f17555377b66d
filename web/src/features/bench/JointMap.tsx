import type { Preflight, StudyDocument } from "@/api/client";
import { isSelected, useSelection } from "@/features/selection";
import { partColour } from "@/scene/ramp";

import { type JointGraph, type MapLink, type MapNode, startText } from "./jointGraph";
import { COLOURS } from "@/ui/colours";

type Props = { study: StudyDocument; graph: JointGraph; preflight: Preflight | undefined };

const NODE_HEIGHT = 42;
const WIDTH = 268;

/** The assembly as a graph of parts, pairs, fasteners and ground. */
export function JointMap({ study, graph, preflight }: Props) {
  const { selected, select } = useSelection();
  const node = (id: string) => graph.nodes.find((n) => n.id === id);
  const shown = (kind: "part" | "pair" | "support" | "load", id: string) => isSelected(selected, kind, id);
  const starts = new Map((preflight?.pairs ?? []).map((p) => [p.id, p.gap]));
  const index = (id: string) => (study.parts ?? []).findIndex((p) => p.id === id);

  return (
    <nav aria-label="Joint map" className="relative" style={{ height: graph.height, width: WIDTH }}>
      <svg className="absolute inset-0" width={WIDTH} height={graph.height} aria-hidden>
        {graph.links.map((link) => {
          const line = linkLine(node(link.from), node(link.to), link);
          const on = link.pairs.some((p) => shown("pair", p.id));
          return (
            line && (
              <polyline
                key={link.key}
                points={line.points}
                fill="none"
                stroke={on ? COLOURS.verdigris : COLOURS.ink}
                strokeWidth={on ? 3 : 1.4}
              />
            )
          );
        })}
        {graph.grounds.map((ground) => {
          const n = node(ground.part);
          return n && <Ground key={ground.part} x={n.x + n.width / 2} y={n.y + NODE_HEIGHT} />;
        })}
        {graph.loads.map((load, i) => {
          const n = node(load.part);
          return (
            n && <path key={load.id} d={arrowPath(n.x + 24 + i * 62, n.y)} fill={COLOURS.ink} stroke={COLOURS.ink} />
          );
        })}
      </svg>
      {graph.nodes.map((n) => (
        <button
          key={n.id}
          type="button"
          data-part={n.id}
          onClick={() => select({ kind: "part", id: n.id })}
          className={`absolute flex items-center gap-2 rounded-md border bg-paper px-2 text-left ${shown("part", n.id) ? "border-2 border-verdigris" : n.isLoose ? "border-2 border-dashed border-vermilion" : "border-ink"}`}
          style={{ left: n.x, top: n.y, width: n.width, height: NODE_HEIGHT }}
        >
          <span className="h-6 w-2 shrink-0 rounded-sm" style={{ background: partColour(index(n.id), n.isBolt) }} />
          <span className="min-w-0">
            <span className="block truncate leading-4 font-semibold">
              {n.name}
              {n.copies > 1 && ` ×${n.copies}`}
            </span>
            <span className="block truncate text-[12px] leading-4 text-quiet">{n.isLoose ? "loose" : n.detail}</span>
          </span>
        </button>
      ))}
      {graph.links.map((link) => (
        <PairChips key={link.key} link={link} from={node(link.from)} to={node(link.to)} starts={starts} />
      ))}
      {graph.grounds.map((ground) => {
        const n = node(ground.part);
        return (
          n &&
          ground.holds.map((hold, i) => (
            <button
              key={`${hold.kind}/${hold.id}`}
              type="button"
              onClick={() => select({ kind: hold.kind, id: hold.id })}
              className={`absolute rounded px-1 text-[12.5px] ${shown(hold.kind, hold.id) ? "bg-verdigris-pale" : "text-quiet hover:text-ink"}`}
              style={{ left: n.x, top: n.y + NODE_HEIGHT + 40 + i * 18 }}
            >
              {hold.name}
            </button>
          ))
        );
      })}
      {graph.loads.map((load, i) => {
        const n = node(load.part);
        return (
          n && (
            <button
              key={load.id}
              type="button"
              onClick={() => select({ kind: "load", id: load.id })}
              className={`absolute rounded px-1 text-left leading-[15px] ${shown("load", load.id) ? "bg-verdigris-pale" : "hover:bg-paper"}`}
              style={{ left: n.x + i * 66, top: n.y - 70, width: 68 }}
            >
              <span className="block truncate text-[13px]">{load.name}</span>
              <span className="block text-[12px] text-quiet">{load.text}</span>
            </button>
          )
        );
      })}
    </nav>
  );
}

function PairChips({
  link,
  from,
  to,
  starts,
}: {
  link: MapLink;
  from: MapNode | undefined;
  to: MapNode | undefined;
  starts: Map<string, number | null>;
}) {
  const { selected, select } = useSelection();
  const line = linkLine(from, to, link);
  if (!line) return null;
  return (
    <div
      className="absolute flex -translate-y-1/2 flex-col items-start gap-1"
      style={{ left: line.labelX, top: line.labelY }}
    >
      {link.pairs.map((pair) => {
        const on = isSelected(selected, "pair", pair.id);
        const slide = pair.law?.may_slide ?? "friction";
        const law =
          slide === "friction"
            ? `µ ${pair.law?.mu ?? 0.15}`
            : slide === "freely"
              ? "smooth"
              : pair.law?.may_open === false
                ? "tied"
                : "grip";
        return (
          <button
            key={pair.id}
            type="button"
            data-pair={pair.id}
            title={pair.name}
            onClick={() => select({ kind: "pair", id: pair.id })}
            className={`rounded-full border px-2 text-[12px] leading-[18px] whitespace-nowrap ${on ? "border-verdigris bg-verdigris-pale text-verdigris" : "border-ink/60 bg-paper hover:bg-verdigris-pale"}`}
          >
            {law} · {startText(starts.get(pair.id)) || "…"}
          </button>
        );
      })}
    </div>
  );
}

function linkLine(from: MapNode | undefined, to: MapNode | undefined, link: MapLink) {
  if (!from || !to) return undefined;
  const [upper, lower] = from.y <= to.y ? [from, to] : [to, from];
  if (link.isAside) {
    const [edge, x] = [upper.x + upper.width, 158];
    const [y0, y1] = [upper.y + NODE_HEIGHT / 2, lower.y + NODE_HEIGHT / 2];
    return { points: `${edge},${y0} ${x},${y0} ${x},${y1} ${edge},${y1}`, labelX: 144, labelY: link.labelY ?? 0 };
  }
  if (!upper.isBolt && !lower.isBolt) {
    const x = 44;
    return { points: `${x},${upper.y + NODE_HEIGHT} ${x},${lower.y}`, labelX: 10, labelY: link.labelY ?? 0 };
  }
  const bolt = upper.isBolt ? upper : lower;
  const part = upper.isBolt ? lower : upper;
  if (Math.abs(bolt.y - part.y) < NODE_HEIGHT) {
    const y = bolt.y + NODE_HEIGHT / 2;
    return { points: `${part.x + part.width},${y} ${bolt.x},${y}`, labelX: 138, labelY: bolt.y - 30 };
  }
  const x = bolt.x + bolt.width / 2;
  const y = part.y + NODE_HEIGHT / 2;
  return {
    points: `${x},${bolt.y + NODE_HEIGHT} ${x},${y} ${part.x + part.width},${y}`,
    labelX: x - 70,
    labelY: (bolt.y + NODE_HEIGHT + y) / 2,
  };
}

const arrowPath = (x: number, y: number) => `M${x} ${y - 34} L${x} ${y - 8} M${x} ${y} l-4 -9 h8 z`;

function Ground({ x, y }: { x: number; y: number }) {
  const ticks = Array.from({ length: 7 }, (_, i) => `M${x - 30 + i * 10} ${y + 28} l-7 9`).join(" ");
  return <path d={`M${x} ${y} V${y + 28} M${x - 34} ${y + 28} H${x + 34} ${ticks}`} stroke={COLOURS.ink} fill="none" />;
}

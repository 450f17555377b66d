import { useEffect, useState } from "react";

import type { DrawingPlane } from "@/api/client";
import { isPlain } from "@/api/units";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Switch } from "@/ui/Switch";

import { DrawingSheet } from "./DrawingSheet";
import { type Corner, type Tool, withBox, withCircle, withEdgeChanged, withRing, written } from "./drawing";
import type { SketchState } from "./useSketch";

type Props = { sketch: SketchState; plane?: DrawingPlane | undefined; isTurned: boolean };

const TOOLS = [
  { value: "choose", label: "Choose" },
  { value: "ring", label: "Outline" },
  { value: "box", label: "Box" },
  { value: "circle", label: "Circle" },
] as const;
const SAID: Record<Tool, string> = {
  choose: "Click an edge, drag an end, or drag the sheet; the wheel zooms.",
  ring: "Click corner by corner; the first corner, or Enter, closes the outline.",
  box: "Click one corner, then the one across.",
  circle: "Click the centre, then a point of the circle.",
};
type Way = "line" | "left" | "right";

/** Where outlines are drawn: the tools, the sheet, and what is wrong with what is drawn. */
export function OutlineEditor({ sketch, plane, isTurned }: Props) {
  const { shape, change, drawing, choose, chosen } = sketch;
  const [tool, setTool] = useState<Tool>(shape.outlines.length ? "choose" : "ring");
  const [takesOut, setTakesOut] = useState(false);
  const [grid, setGrid] = useState("");
  const [corners, setCorners] = useState<Corner[]>([]);
  const [way, setWay] = useState<Way>("line");
  const [radius, setRadius] = useState("");
  const [typed, setTyped] = useState({ x: "", y: "", length: "", angle: "" });
  const [isDragged, setIsDragged] = useState(false);
  const step = Number(grid.replace(",", "."));
  const last = corners.at(-1);

  const done = () => {
    setCorners([]);
    setTool("choose");
    setTakesOut(false);
  };
  const close = () => {
    if (corners.length < 2) return;
    // The way to the first corner is that of the edge which closes the ring.
    const [first, ...rest] = corners;
    change({ shape: withRing(shape, [{ ...first!, ...bend(first!.at) }, ...rest], takesOut) });
    choose({ outline: shape.outlines.length });
    done();
  };
  /** The arc by which the next edge goes to a point: of the radius that is set, or half a turn. */
  const bend = (to: Corner["at"]): { arc?: NonNullable<Corner["arc"]> } => {
    if (way === "line" || !last) return {};
    const half = Math.hypot(to[0] - last.at[0], to[1] - last.at[1]) / 2;
    return { arc: { turns: way, radius: Math.max(Number(radius.replace(",", ".")) || 0, half) } };
  };
  const corner = (at: Corner["at"]) => setCorners([...corners, { at, ...(corners.length ? bend(at) : {}) }]);
  const type = () => {
    const number = (text: string) => Number(text.replace(",", "."));
    if (typed.length && last) {
      const angle = (number(typed.angle || "0") * Math.PI) / 180;
      corner([
        last.at[0] + number(typed.length) * Math.cos(angle),
        last.at[1] + number(typed.length) * Math.sin(angle),
      ]);
    } else if (typed.x || typed.y) {
      corner([number(typed.x || String(last?.at[0] ?? 0)), number(typed.y || String(last?.at[1] ?? 0))]);
    }
    setTyped({ x: "", y: "", length: "", angle: "" });
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "Escape" && corners.length) {
        event.stopImmediatePropagation();
        return setCorners([]);
      }
      if (event.target instanceof HTMLInputElement) return;
      // On a button Enter presses that.
      if (event.key === "Enter" && corners.length > 1 && !(event.target instanceof HTMLButtonElement)) close();
      if (event.key === "Backspace" && corners.length) setCorners(corners.slice(0, -1));
      if (event.key === "z" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        event.stopImmediatePropagation();
        if (corners.length) setCorners(corners.slice(0, -1));
        else sketch.back();
      }
    };
    window.addEventListener("keydown", onKey, { capture: true });
    return () => window.removeEventListener("keydown", onKey, { capture: true });
  });
  const entry = (name: keyof typeof typed, label: string) => (
    <label className="flex items-center gap-1">
      {label}
      <input
        value={typed[name]}
        onChange={(e) => setTyped({ ...typed, [name]: e.target.value })}
        onKeyDown={(e) => e.key === "Enter" && type()}
        className="w-[56px] rounded border border-line bg-white px-1.5 py-0.5 text-right disabled:bg-panel"
      />
    </label>
  );
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex flex-wrap items-center gap-x-4 border-b border-line px-3 py-0.5">
        <Choice
          label="Tool"
          value={tool}
          options={TOOLS}
          onChange={(next) => {
            setCorners([]);
            setTool(next);
          }}
        />
        {tool !== "choose" && (
          <div className="w-44">
            <Switch label="Takes material out" checked={takesOut} onChange={setTakesOut} />
          </div>
        )}
        <label className="ml-auto flex items-center gap-1.5">
          Grid
          <input
            value={grid}
            placeholder="by the view"
            onChange={(e) => setGrid(e.target.value)}
            className="w-[86px] rounded border border-line bg-white px-1.5 py-0.5 text-right"
          />
          mm
        </label>
        <Button
          disabled={!sketch.canGoBack && !corners.length}
          onClick={() => (corners.length ? setCorners(corners.slice(0, -1)) : sketch.back())}
        >
          One step back
        </Button>
      </div>
      <div className="relative min-h-0 flex-1">
        <DrawingSheet
          drawing={drawing}
          plane={plane}
          tool={tool}
          grid={step > 0 ? step : undefined}
          corners={corners}
          arc={last && way !== "line" ? { turns: way, radius: Number(radius.replace(",", ".")) || 0 } : undefined}
          chosen={chosen}
          circles={shape.outlines.flatMap((o, i) => (o.circle ? [i] : []))}
          isTurned={isTurned}
          onChoose={(next) => {
            setIsDragged(false);
            choose(next);
          }}
          onCorner={corner}
          onClose={close}
          onBox={(a, b) => {
            change({ shape: withBox(shape, a, b, takesOut) });
            choose({ outline: shape.outlines.length });
            done();
          }}
          onCircle={(centre, diameter) => {
            change({ shape: withCircle(shape, centre, diameter, takesOut) });
            choose({ outline: shape.outlines.length });
            done();
          }}
          onDrag={(outline, edge, to) => {
            const drawn = shape.outlines[outline];
            const at: [string, string] = [written(to[0]), written(to[1])];
            if (drawn?.circle || !drawn?.edges?.[edge]?.to.every(isPlain)) return;
            change({ shape: withEdgeChanged(shape, { outline, edge }, { to: at }) }, isDragged);
            setIsDragged(true);
          }}
        />
      </div>
      {tool === "ring" && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line px-3 py-1">
          <span className="text-quiet">Next corner (mm)</span>
          {entry("x", "x")}
          {entry("y", "y")}
          <span className="text-quiet">or</span>
          {entry("length", "length")}
          {entry("angle", "at °")}
          <Button onClick={type}>Set the corner</Button>
          <select
            aria-label="Next edge"
            value={way}
            onChange={(e) => setWay(e.target.value as Way)}
            className="rounded border border-line bg-white px-1.5 py-0.5"
          >
            <option value="line">straight</option>
            <option value="left">arc, turning left</option>
            <option value="right">arc, turning right</option>
          </select>
          {way !== "line" && (
            <label className="flex items-center gap-1">
              radius
              <input
                value={radius}
                placeholder="half a turn"
                onChange={(e) => setRadius(e.target.value)}
                className="w-[80px] rounded border border-line bg-white px-1.5 py-0.5 text-right"
              />
            </label>
          )}
          <Button tone="main" disabled={corners.length < 2} onClick={close}>
            Close the outline
          </Button>
        </div>
      )}
      <div className="max-h-[92px] min-h-[30px] overflow-auto border-t border-line px-3 py-1">
        {corners.length > 0 ? (
          <p role="status" className="text-copper">
            Open: {corners.length} {corners.length === 1 ? "corner" : "corners"}. {SAID.ring}
          </p>
        ) : drawing?.faults.length ? (
          <div role="alert">
            {drawing.faults.map((f, i) => (
              <button
                key={i}
                type="button"
                className="block w-full text-left text-vermilion hover:underline"
                onClick={() =>
                  f.outline != null &&
                  choose({ outline: f.outline, ...(f.edges?.[0] !== undefined && { edge: f.edges[0] }) })
                }
              >
                {f.message} {f.hint}
              </button>
            ))}
          </div>
        ) : (
          <p className="text-quiet">{SAID[tool]}</p>
        )}
      </div>
    </div>
  );
}

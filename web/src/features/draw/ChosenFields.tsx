import type { DrawnEdge } from "@/api/client";
import { length } from "@/api/units";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";

import { asName, withEdgeChanged, withEdgeSplit, withOutlineChanged, withoutEdge, withoutOutline } from "./drawing";
import type { SketchState } from "./useSketch";

const STRAIGHT = "straight";
const WAYS = [
  { value: STRAIGHT, label: "straight" },
  { value: "left", label: "arc, turning left" },
  { value: "right", label: "arc, turning right" },
];
const done = (value: unknown) => Promise.resolve(value);

/** What is chosen of a drawing, in numbers: an outline, and an edge of it. */
export function ChosenFields({ sketch }: { sketch: SketchState }) {
  const { chosen, shape, change, choose } = sketch;
  const outline = chosen && shape.outlines[chosen.outline];
  if (!outline) return <p className="py-2 text-quiet">Click an edge to change it by numbers, or drag its end.</p>;
  const edge = chosen.edge === undefined ? undefined : outline.edges?.[chosen.edge];
  const set = (to: Parameters<typeof withOutlineChanged>[2]) =>
    change({ shape: withOutlineChanged(shape, chosen.outline, to) });
  return (
    <>
      {edge && chosen.edge !== undefined && (
        <EdgeFields key={`${chosen.outline}/${chosen.edge}`} sketch={sketch} edge={edge} at={chosen.edge} />
      )}
      <Section title={outline.circle ? "Circle" : "Outline"}>
        <Field label="Name of the outline" value={outline.name} onCommit={(t) => done(set({ name: asName(t) }))} />
        <Switch
          label="Takes material out"
          checked={outline.takes_out ?? false}
          onChange={(takes_out) => set({ takes_out })}
        />
        {outline.circle &&
          (["x", "y"] as const).map((axis, i) => (
            <Field
              key={axis}
              label={`Centre ${axis}`}
              value={outline.circle?.centre[i] ?? ""}
              onCommit={(text) => {
                const centre: [string, string] = [...outline.circle!.centre];
                centre[i] = text;
                return done(set({ circle: { ...outline.circle!, centre } }));
              }}
            />
          ))}
        {outline.circle && (
          <Field
            label="Diameter"
            value={outline.circle.diameter}
            onCommit={(diameter) => done(set({ circle: { ...outline.circle!, diameter } }))}
          />
        )}
        <Button
          tone="danger"
          className="mt-1"
          onClick={() => {
            choose(undefined);
            change({ shape: withoutOutline(shape, chosen.outline) });
          }}
        >
          Take the {outline.circle ? "circle" : "outline"} out
        </Button>
      </Section>
    </>
  );
}

function EdgeFields({ sketch, edge, at }: { sketch: SketchState; edge: DrawnEdge; at: number }) {
  const { chosen, shape, change, choose, drawing } = sketch;
  const where = { outline: chosen!.outline, edge: at };
  const traced = drawing?.edges.find((e) => e.outline === where.outline && e.edge === at && !e.is_corner);
  const set = (to: Partial<DrawnEdge>) => change({ shape: withEdgeChanged(shape, where, to) });
  const count = shape.outlines[where.outline]?.edges?.length ?? 0;
  const before = shape.outlines[where.outline]?.edges?.[(at + count - 1) % count];
  const middle = traced && ([0, 1] as const).map((k) => traced.points[(traced.points.length - 1) >> 1]?.[k] ?? 0);
  const straightMiddle =
    traced && traced.points.length === 2
      ? ([0, 1] as const).map((k) => ((traced.points[0]?.[k] ?? 0) + (traced.points[1]?.[k] ?? 0)) / 2)
      : middle;
  return (
    <Section title={`Edge ${at + 1} of ${count}`}>
      <Field label="Name of its face" value={edge.name} onCommit={(t) => done(set({ name: asName(t) }))} />
      <p className="text-[12.5px] text-quiet">From {before?.to.join(", ")} to</p>
      {(["x", "y"] as const).map((axis, i) => (
        <Field
          key={axis}
          label={`End ${axis}`}
          value={edge.to[i]!}
          onCommit={(text) => {
            const to: [string, string] = [...edge.to];
            to[i] = text;
            return done(set({ to }));
          }}
        />
      ))}
      <Select
        label="Goes"
        value={edge.arc ? (edge.arc.turns ?? "left") : STRAIGHT}
        options={WAYS}
        onChange={(way) =>
          set({
            arc:
              way === STRAIGHT
                ? null
                : {
                    radius: edge.arc?.radius ?? `${Number(((traced?.length ?? 10) * 0.75).toPrecision(3))} mm`,
                    turns: way as "left" | "right",
                    is_long: edge.arc?.is_long ?? false,
                  },
          })
        }
      />
      {edge.arc && (
        <>
          <Field
            label="Radius"
            value={edge.arc.radius}
            onCommit={(radius) => done(set({ arc: { ...edge.arc!, radius } }))}
          />
          <Switch
            label="The longer of the two arcs"
            checked={edge.arc.is_long ?? false}
            onChange={(is_long) => set({ arc: { ...edge.arc!, is_long } })}
          />
        </>
      )}
      <Field
        label="Round its end"
        value={edge.corner ?? ""}
        placeholder="sharp"
        onCommit={(text) => done(set({ corner: text || null }))}
      />
      {traced && (
        <Row label="Length">
          {length(traced.length, 5)}
          {traced.direction == null ? "" : ` at ${traced.direction.toFixed(2)}°`}
          {traced.sweep == null ? "" : `, ${traced.sweep.toFixed(1)}°`}
        </Row>
      )}
      <div className="flex flex-wrap gap-1.5 py-1">
        <Button
          disabled={!straightMiddle}
          onClick={() =>
            straightMiddle &&
            change({ shape: withEdgeSplit(shape, where, [straightMiddle[0] ?? 0, straightMiddle[1] ?? 0]) })
          }
        >
          Halve it
        </Button>
        <Button
          disabled={count < 3}
          onClick={() => {
            choose(undefined);
            change({ shape: withoutEdge(shape, where) });
          }}
        >
          Take the edge out
        </Button>
      </div>
    </Section>
  );
}

import { Dialog } from "radix-ui";
import { useState } from "react";

import type { BarRun, BentShape, DrawnOutline, PartUse, RecipeUse, StudyInfo } from "@/api/client";
import { useShapePreview } from "@/api/hooks";
import { Stage } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Frame } from "@/ui/Frame";
import { Refusal } from "@/ui/Refusal";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { ChosenFields } from "./ChosenFields";
import { Dimensions } from "./Dimensions";
import { PLANES, asName, entriesOf, renamed } from "./drawing";
import { OutlineEditor } from "./OutlineEditor";
import { OutlineList } from "./OutlineList";
import { useFinish } from "./useFinish";
import { usePartLook } from "./usePartLook";
import { useSketch } from "./useSketch";

type Props = { info: StudyInfo; part?: PartUse | undefined; on?: string | undefined; onClose: () => void };

const edge = (name: string, x: string, y: string) => ({ name, to: [x, y] as [string, string] });
/** Sections to begin with, in dimensions that are changed by name. */
const SECTIONS: Record<string, { label: string; dimensions: Record<string, string>; section: DrawnOutline[] }> = {
  round: {
    label: "round",
    dimensions: { d: "10 mm" },
    section: [{ name: "side", takes_out: false, circle: { centre: ["0 mm", "0 mm"], diameter: "d" } }],
  },
  pipe: {
    label: "pipe",
    dimensions: { d: "20 mm", wall: "2 mm" },
    section: [
      { name: "outside", takes_out: false, circle: { centre: ["0 mm", "0 mm"], diameter: "d" } },
      { name: "inside", takes_out: true, circle: { centre: ["0 mm", "0 mm"], diameter: "d - 2*wall" } },
    ],
  },
  flat: {
    label: "flat",
    dimensions: { wide: "20 mm", thick: "5 mm" },
    section: [
      {
        name: "flat",
        takes_out: false,
        edges: [
          edge("near", "thick/2", "-wide/2"),
          edge("right", "thick/2", "wide/2"),
          edge("far", "-thick/2", "wide/2"),
          edge("left", "-thick/2", "-wide/2"),
        ],
      },
    ],
  },
};
const FIRST = SECTIONS.round!;
const HOOK: BarRun[] = [
  { name: "leg", length: "40 mm", towards: "0 deg" },
  { name: "bow", radius: "20 mm", angle: "180 deg", towards: "0 deg" },
  { name: "leg-2", length: "40 mm", towards: "0 deg" },
];

/** Where a bar is bent: its section, and the straight runs and bends that it goes along. */
export function BendBar({ info, part, on, onClose }: Props) {
  const was: BentShape = part?.recipe.bent ?? { section: FIRST.section, runs: HOOK, cuts: [] };
  const sketch = useSketch({
    shape: {
      outlines: was.section,
      layers: [{ name: "section", height: "1 mm", outlines: was.section.map((o) => o.name) }],
    },
    dimensions: part ? entriesOf(part.recipe.dimensions) : FIRST.dimensions,
  });
  const [runs, setRuns] = useState<BarRun[]>(was.runs);
  const [cuts, setCuts] = useState(was.cuts ?? []);
  const [name, setName] = useState(part?.name ?? "Bent bar");
  const [where, setWhere] = useState(on ?? "xy");
  const [sight, setSight] = useState<"bar" | "section">("bar");
  const { dimensions, drawing } = sketch;
  const bent = { section: sketch.shape.outlines, runs, cuts };
  const recipe: RecipeUse = { ...part?.recipe, kind: "bent", dimensions, bent } as RecipeUse;
  const isSound = !!drawing && !drawing.faults.length && sketch.isTraced;
  const preview = useShapePreview(isSound ? recipe : undefined);
  const end = useFinish(info, part, onClose);
  const look = usePartLook(info, part);
  const set = (i: number, to: Partial<BarRun>) => setRuns(runs.map((r, k) => (k === i ? { ...r, ...to } : r)));
  const done = (value: unknown) => Promise.resolve(value);
  const add = (isBend: boolean) => {
    const stem = isBend ? "bend" : "run";
    let n = 1;
    while (runs.some((r) => r.name === `${stem}-${n}`)) n++;
    const run = isBend ? { radius: "20 mm", angle: "90 deg" } : { length: "40 mm" };
    setRuns([...runs, { name: `${stem}-${n}`, towards: "0 deg", ...run }]);
  };
  const finish = () => end.finish(recipe, renamedFaces(sketch.begin.shape, sketch.shape, was.runs, runs), name, where);
  return (
    <Frame
      className="inset-x-6 inset-y-5 grid grid-cols-[252px_minmax(0,1fr)_318px] grid-rows-[auto_minmax(0,1fr)_auto]"
      onClose={() => {
        // What is drawn is not lost by a slip: it is left by the button.
        if (!sketch.canGoBack && runs === was.runs && cuts.length === (was.cuts ?? []).length) onClose();
      }}
    >
      <header className="col-span-3 flex items-center justify-between border-b border-line px-4 py-1">
        <Dialog.Title className="text-[17px] font-semibold">
          {part ? `Runs of ${part.name}` : "Bend a bar"}
        </Dialog.Title>
        <Choice
          label=""
          value={sight}
          options={[
            { value: "bar", label: "Bar" },
            { value: "section", label: "Section" },
          ]}
          onChange={setSight}
        />
      </header>
      <div className="overflow-auto border-r border-line px-3 py-2">
        {!part && (
          <Section title="The part">
            <Field label="Name of the part" value={name} onCommit={(text) => done(setName(text || name))} />
            <Select
              label="From"
              value={where}
              options={[...(on ? [{ value: on, label: on }] : []), ...PLANES]}
              onChange={setWhere}
            />
          </Section>
        )}
        <Section title="Section">
          {!part && (
            <div className="flex gap-1.5 pb-1">
              {Object.entries(SECTIONS).map(([kind, { label, section, dimensions: begin }]) => (
                <Button
                  key={kind}
                  onClick={() => {
                    sketch.choose(undefined);
                    sketch.change({
                      shape: {
                        outlines: section,
                        layers: [{ name: "section", height: "1 mm", outlines: section.map((o) => o.name) }],
                      },
                      dimensions: begin,
                    });
                  }}
                >
                  {label}
                </Button>
              ))}
            </div>
          )}
          <OutlineList sketch={sketch} />
        </Section>
        <Dimensions
          written={dimensions}
          values={drawing?.dimensions ?? {}}
          onChange={(to) => sketch.change({ dimensions: to })}
        />
      </div>
      {sight === "section" ? (
        <OutlineEditor sketch={sketch} isTurned={false} />
      ) : (
        <div className="relative flex min-h-0">
          <Stage block={isSound ? preview.data : undefined} look={look}>
            <Refusal
              of={preview.error}
              className="absolute inset-x-4 bottom-4 rounded border border-vermilion bg-paper px-3 py-1.5"
            />
            {drawing?.faults.map((f) => (
              <p key={f.message} role="alert" className="absolute inset-x-4 top-3 text-vermilion">
                {f.message} {f.hint}
              </p>
            ))}
          </Stage>
        </div>
      )}
      <div className="overflow-auto border-l border-line px-4 py-1">
        {sight === "section" && <ChosenFields sketch={sketch} />}
        {sight === "bar" && (
          <Section title="Runs, from the origin along the normal of the plane">
            <ol aria-label="Runs">
              {runs.map((run, i) => (
                <li key={i} className="my-1 rounded border border-line px-2 py-1">
                  <div className="flex items-center justify-between">
                    <Field
                      label={`Run ${i + 1}`}
                      value={run.name}
                      onCommit={(text) => done(set(i, { name: asName(text).replaceAll(".", "-") }))}
                    />
                    {runs.length > 1 && (
                      <button
                        type="button"
                        aria-label={`Take ${run.name} out`}
                        className="text-quiet hover:text-vermilion"
                        onClick={() => setRuns(runs.filter((_, k) => k !== i))}
                      >
                        ×
                      </button>
                    )}
                  </div>
                  {run.radius == null ? (
                    <Field
                      label={`Length ${i + 1}`}
                      value={run.length ?? ""}
                      onCommit={(text) => done(set(i, { length: text }))}
                    />
                  ) : (
                    <>
                      <Field
                        label={`Radius ${i + 1}`}
                        value={run.radius}
                        onCommit={(text) => done(set(i, { radius: text }))}
                      />
                      <Field
                        label={`Angle ${i + 1}`}
                        value={run.angle ?? ""}
                        onCommit={(text) => done(set(i, { angle: text }))}
                      />
                      <Field
                        label={`Towards ${i + 1}`}
                        value={run.towards ?? "0 deg"}
                        onCommit={(text) => done(set(i, { towards: text }))}
                      />
                    </>
                  )}
                </li>
              ))}
            </ol>
            <div className="flex gap-1.5 py-1">
              <Button onClick={() => add(false)}>Straight run</Button>
              <Button onClick={() => add(true)}>Bend</Button>
            </div>
            <p className="text-[12.5px] text-quiet">
              A bend goes at the radius of the path, towards 0° (x of the section) or 90° (its y). A bar that ends where
              and as it begins closes to a ring.
            </p>
          </Section>
        )}
        {sight === "bar" && cuts.length > 0 && (
          <Section title="Cut by planes">
            {cuts.map((cut, i) => (
              <div key={i} className="flex items-center justify-between gap-2">
                <span className="text-quiet">normal {cut.normal.map((c) => Number(c.toFixed(3))).join(", ")}</span>
                <Field
                  label={`Plane ${i + 1} at`}
                  hideLabel
                  value={cut.at}
                  onCommit={(text) => done(setCuts(cuts.map((c, k) => (k === i ? { ...c, at: text } : c))))}
                />
                <button
                  type="button"
                  aria-label={`Take plane ${i + 1} out`}
                  className="text-quiet hover:text-vermilion"
                  onClick={() => setCuts(cuts.filter((_, k) => k !== i))}
                >
                  ×
                </button>
              </div>
            ))}
          </Section>
        )}
      </div>
      <footer className="col-span-3 flex items-center justify-end gap-3 border-t border-line px-4 py-1.5">
        <Refusal of={end.problem ?? sketch.problem} className="mr-auto" />
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="main" disabled={!isSound || !!preview.error || end.isBusy} onClick={finish}>
          {part ? "Change the bar" : "Set it in the study"}
        </Button>
      </footer>
    </Frame>
  );
}

/** Old names of the faces of a bar to new ones, where its runs or the edges of its section were renamed. */
function renamedFaces(
  before: Parameters<typeof renamed>[0],
  now: Parameters<typeof renamed>[1],
  oldRuns: readonly BarRun[],
  newRuns: readonly BarRun[],
): Record<string, string> {
  const edges = renamed(before, now);
  const names = before.outlines.flatMap((o) => (o.circle ? [o.name] : (o.edges ?? []).map((e) => e.name)));
  const isOne = new Set(names).size === 1;
  if (oldRuns.length !== newRuns.length) return {};
  const pairs = oldRuns.flatMap((run, i): [string, string][] => {
    const to = newRuns[i]?.name ?? run.name;
    return isOne ? [[run.name, to]] : names.map((n) => [`${run.name}.${n}`, `${to}.${edges[n] ?? n}`]);
  });
  return Object.fromEntries(pairs.filter(([a, b]) => a !== b));
}

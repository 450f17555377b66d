import { Dialog } from "radix-ui";
import { useState } from "react";

import type { DrawnLayer, DrawnShape, PartUse, RecipeUse, StudyInfo } from "@/api/client";
import { useDrawingPlane, useShapePreview } from "@/api/hooks";
import { area } from "@/api/units";
import { Stage } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Frame } from "@/ui/Frame";
import { Refusal } from "@/ui/Refusal";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { ChosenFields } from "./ChosenFields";
import { Dimensions } from "./Dimensions";
import { PLANES, asName, entriesOf, renamed } from "./drawing";
import { OutlineEditor } from "./OutlineEditor";
import { OutlineList } from "./OutlineList";
import { useFinish } from "./useFinish";
import { usePartLook } from "./usePartLook";
import { useSketch } from "./useSketch";

type Props = {
  info: StudyInfo;
  /** The part whose drawing is changed; a new one where there is none. */
  part?: PartUse | undefined;
  /** The face (reference) that a new part is drawn on. */
  on?: string | undefined;
  onClose: () => void;
};

const SLAB: DrawnLayer = { name: "slab", height: "10 mm", outlines: [] };

/** Where a part is drawn: outlines on a sheet, given height in layers or turned about an axis. */
export function DrawPart({ info, part, on, onClose }: Props) {
  const study = info.document;
  const isFlat = study.space !== "solid";
  const sketch = useSketch({
    // A profile about an axis is drawn at x ≥ 0, where x is the radius.
    shape: part?.recipe.drawn ?? { outlines: [], layers: study.space === "axisymmetric" ? [] : [SLAB] },
    dimensions: entriesOf(part?.recipe.dimensions),
  });
  const { shape, dimensions, change, drawing } = sketch;
  const [name, setName] = useState(part?.name ?? "Drawn part");
  const [where, setWhere] = useState(on ?? "xy");
  const [sight, setSight] = useState<"sheet" | "solid">("sheet");
  const plane = useDrawingPlane(info.id, info.revision, part ? undefined : where);
  const recipe: RecipeUse = { ...part?.recipe, kind: "drawn", dimensions, drawn: shape } as RecipeUse;
  const isSound = !!drawing && !drawing.faults.length && sketch.isTraced;
  const preview = useShapePreview(sight === "solid" && isSound ? recipe : undefined);
  const end = useFinish(info, part, onClose);
  const look = usePartLook(info, part);
  const layers = shape.layers ?? [];
  const isTurned = layers.length === 0;
  const setLayers = (to: DrawnLayer[]) => change({ shape: { ...shape, layers: to } satisfies DrawnShape });
  const setLayer = (i: number, to: Partial<DrawnLayer>) =>
    setLayers(layers.map((la, k) => (k === i ? { ...la, ...to } : la)));
  const finish = () => end.finish(recipe, renamed(sketch.begin.shape, shape), name, where);
  return (
    <Frame
      className="inset-x-6 inset-y-5 grid grid-cols-[252px_minmax(0,1fr)_292px] grid-rows-[auto_minmax(0,1fr)_auto]"
      onClose={() => {
        // What is drawn is not lost by a slip: it is left by the button.
        if (!sketch.canGoBack) onClose();
      }}
    >
      <header className="col-span-3 flex items-center justify-between border-b border-line px-4 py-1">
        <Dialog.Title className="text-[17px] font-semibold">
          {part ? `Drawing of ${part.name}` : "Draw a part"}
        </Dialog.Title>
        {!isFlat && (
          <Choice
            label=""
            value={sight}
            options={[
              { value: "sheet", label: "Sheet" },
              { value: "solid", label: "Solid" },
            ]}
            onChange={setSight}
          />
        )}
      </header>
      <div className="overflow-auto border-r border-line px-3 py-2">
        <Section title="Outlines">
          <OutlineList sketch={sketch} />
        </Section>
        {!isFlat && (
          <Section title="Made of them">
            <Select
              label="By"
              value={isTurned ? "turned" : "layers"}
              options={[
                { value: "layers", label: "layers of height" },
                { value: "turned", label: "a turn about x = 0" },
              ]}
              onChange={(by) =>
                setLayers(by === "turned" ? [] : [{ ...SLAB, outlines: shape.outlines.map((o) => o.name) }])
              }
            />
            {layers.map((layer, i) => (
              <div key={i} className="mt-1 rounded border border-line p-1.5">
                <Field
                  label={`Layer ${i + 1}`}
                  value={layer.name}
                  onCommit={(text) => Promise.resolve(setLayer(i, { name: asName(text).replaceAll(".", "-") }))}
                />
                <Field
                  label={`Height ${i + 1}`}
                  value={layer.height}
                  onCommit={(height) => Promise.resolve(setLayer(i, { height }))}
                />
                {shape.outlines.map((o) => (
                  <label key={o.name} className="flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      checked={layer.outlines.includes(o.name)}
                      onChange={(e) =>
                        setLayer(i, {
                          outlines: e.target.checked
                            ? [...layer.outlines, o.name]
                            : layer.outlines.filter((n) => n !== o.name),
                        })
                      }
                    />
                    <span className="truncate">{o.name}</span>
                  </label>
                ))}
                {layers.length > 1 && (
                  <button
                    type="button"
                    className="text-[12.5px] text-vermilion hover:underline"
                    onClick={() => setLayers(layers.filter((_, k) => k !== i))}
                  >
                    Take the layer out
                  </button>
                )}
              </div>
            ))}
            {!isTurned && (
              <Button
                className="mt-1.5"
                onClick={() => setLayers([...layers, { ...layers.at(-1)!, name: `slab-${layers.length + 1}` }])}
              >
                Another layer on it
              </Button>
            )}
          </Section>
        )}
        <Dimensions
          written={dimensions}
          values={drawing?.dimensions ?? {}}
          onChange={(to) => change({ dimensions: to })}
        />
      </div>
      {sight === "sheet" ? (
        <OutlineEditor sketch={sketch} plane={plane.data} isTurned={isTurned} />
      ) : (
        <div className="relative flex min-h-0">
          <Stage block={isSound ? preview.data : undefined} look={look}>
            {!isSound && (
              <p className="absolute inset-x-4 top-3 text-quiet">The sheet has faults, or nothing on it yet.</p>
            )}
            <Refusal
              of={preview.error}
              className="absolute inset-x-4 bottom-4 rounded border border-vermilion bg-paper px-3 py-1.5"
            />
          </Stage>
        </div>
      )}
      <div className="overflow-auto border-l border-line px-4 py-1">
        {!part && (
          <Section title="The part">
            <Field label="Name of the part" value={name} onCommit={(text) => Promise.resolve(setName(text || name))} />
            {!isFlat && (
              <Select
                label="Drawn on"
                value={where}
                options={[...(on ? [{ value: on, label: on }] : []), ...PLANES]}
                onChange={setWhere}
              />
            )}
            <Refusal of={plane.error} />
          </Section>
        )}
        <ChosenFields sketch={sketch} />
        {isSound && (
          <Section title="As it stands">
            <Row label={isTurned ? "Area of the profile" : "Area"}>{area(drawing.area ?? 0)}</Row>
            {!isFlat && <Row label="Volume">{((drawing.volume ?? 0) / 1000).toFixed(3)} cm³</Row>}
          </Section>
        )}
      </div>
      <footer className="col-span-3 flex items-center justify-end gap-3 border-t border-line px-4 py-1.5">
        <Refusal of={end.problem ?? sketch.problem} className="mr-auto" />
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="main" disabled={!isSound || end.isBusy} onClick={finish}>
          {part ? "Change the drawing" : "Set it in the study"}
        </Button>
      </footer>
    </Frame>
  );
}

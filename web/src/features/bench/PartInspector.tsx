import { useState } from "react";

import type { PartUse } from "@/api/client";
import { useDimensionValues, useEdits } from "@/api/hooks";
import { useSelection, whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";

import { CAN_BE_TIGHTENED, FaceActions, Place, symmetryAt, tighten } from "./PartPlace";
import { CopyPart } from "./CopyPart";
import { CutParts } from "./CutParts";
import { DropFeatures } from "./DropFeatures";
import { StepImport } from "./StepImport";
import { type InspectorProps, number, put } from "./edits";
import { Head } from "./Head";
import { NameField } from "./NameField";
import { Regions } from "./Regions";
import { Spots } from "./Spots";
import { TakeOut } from "./TakeOut";

const SOLID_ELEMENTS = [
  { value: "bricks", label: "Bricks" },
  { value: "wedges", label: "Wedges, stiff in bending" },
  { value: "tets", label: "Tetrahedra, second order" },
  { value: "beam", label: "Beam along z, outline touches" },
];
const NONE = "-";
/** Parts that no recipe makes. */
const SORTS: Record<string, string> = { drawn: "drawn", bent: "bent bar" };
const KEPT = [
  { value: "whole", label: "the whole part" },
  { value: "half", label: "its half, y ≥ 0" },
  { value: "quarter", label: "its quarter, x ≥ 0, y ≥ 0" },
];
const PATTERNS = [
  { value: "structured", label: "rows and rings where they fit" },
  { value: "free", label: "free everywhere" },
];
const PLANE_ELEMENTS = [
  { value: "bricks", label: "Quads, 4 nodes" },
  { value: "second-order", label: "Quads, 8 nodes" },
  { value: "tets", label: "Triangles, 6 nodes" },
];

export function PartInspector({
  study,
  part,
  path,
  onEdit,
  recipes,
  face,
  info,
  faces,
  onMate,
  neighbours,
}: InspectorProps & { part: PartUse; path: string; face: string | undefined }) {
  const recipe = recipes.find((r) => r.kind === part.recipe.kind);
  const written = part.recipe.dimensions ?? {};
  const isShaped = part.recipe.kind in SORTS;
  const dimensions = recipe
    ? recipe.dimensions.map((d) => ({
        name: d.name,
        label: d.label,
        usual: `${d.default}${{ length: " mm", angle: " deg" }[d.kind] ?? ""}`,
        isPlain: d.kind !== "length" && d.kind !== "angle",
      }))
    : isShaped
      ? Object.keys(written).map((name) => ({ name, label: name, usual: "", isPlain: false }))
      : [];
  const values = useDimensionValues(info.id, part);
  const dropped = part.recipe.dropped ?? [];
  const features = [...new Set((recipe?.dimensions ?? []).flatMap((d) => d.drops ?? []))];
  const { selected, select, sight, see, draw } = useSelection();
  const { refinePart, cutRegion } = useEdits(info.id);
  const [replacing, setReplacing] = useState(false);
  const [beside, setBeside] = useState(NONE);
  const held = (study.supports ?? []).flatMap((s) => s.faces ?? []);
  const cuts = (faces[part.id] ?? []).filter((f) => f.startsWith("cut.") && !held.includes(`${part.id}/${f}`));
  const faceSize = face === undefined ? undefined : part.mesh.faces?.[face];
  const layersHere = face === undefined ? undefined : part.mesh.through?.[face];
  const about = face === undefined ? [] : neighbours(part.id, face);
  const edge = face === undefined || !about.includes(beside) ? undefined : [`${face}|${beside}`, `${beside}|${face}`];
  const edgeName = edge?.find((name) => part.mesh.edges?.[name] !== undefined) ?? edge?.[0];
  return (
    <>
      <Head kind={`Part · ${recipe?.label ?? SORTS[part.recipe.kind] ?? "from a file"}`} name={part.name} />
      <NameField name={part.name} path={path} onEdit={onEdit} />
      <Select
        label="Material"
        value={part.material}
        options={(study.materials ?? []).map((m) => ({ value: m.id, label: m.name }))}
        onChange={(id) => tell(onEdit([put(`${path}/material`, id)], `Material of ${part.name}`))}
      />
      <Select
        label="Face"
        value={face ?? NONE}
        options={[
          { value: NONE, label: "none picked" },
          ...(faces[part.id] ?? []).map((name) => ({ value: name, label: name })),
        ]}
        onChange={(name) =>
          select({ kind: "part", id: part.id, copy: selected.copy, ...(name !== NONE && { face: name }) })
        }
      />
      {face !== undefined && (
        <Section title={`Picked face · ${face}`}>
          <FaceActions id={info.id} study={study} part={part} face={face} onEdit={onEdit} onMate={onMate} />
          <Field
            label="Mesh size here"
            value={faceSize ?? part.mesh.size}
            onCommit={(text) =>
              onEdit([put(`${path}/mesh/faces/${face}`, text)], `Mesh size of ${part.name} / ${face}`)
            }
          />
          {study.space === "solid" && (
            <Field
              label="Layers through it"
              value={layersHere === undefined ? "" : String(layersHere)}
              placeholder="by the size"
              onCommit={(text) =>
                onEdit(
                  [
                    text
                      ? put(`${path}/mesh/through/${face}`, number(text))
                      : { op: "remove", path: `${path}/mesh/through/${face}` },
                  ],
                  `Layers through ${part.name} / ${face}`,
                )
              }
            />
          )}
          {selected.at && study.space === "solid" && (
            <Button
              className="my-1"
              onClick={() =>
                refinePart.mutate({ part: part.id, copy_number: selected.copy ?? 1, at: [...selected.at!] })
              }
            >
              Finer around this point
            </Button>
          )}
          {selected.at && (
            <Button
              className="my-1 ml-2"
              onClick={() =>
                cutRegion.mutate({ part: part.id, copy_number: selected.copy ?? 1, face, at: [...selected.at!] })
              }
            >
              Region around this point
            </Button>
          )}
          {about.length > 0 && (
            <Select
              label="Its edge with"
              value={about.includes(beside) ? beside : NONE}
              options={[{ value: NONE, label: "none" }, ...about.map((n) => ({ value: n, label: n }))]}
              onChange={setBeside}
            />
          )}
          {edgeName !== undefined && (
            <Field
              label="Mesh size along the edge"
              value={part.mesh.edges?.[edgeName] ?? ""}
              placeholder={part.mesh.size}
              onCommit={(text) =>
                onEdit(
                  [
                    text
                      ? put(`${path}/mesh/edges/${edgeName}`, text)
                      : { op: "remove", path: `${path}/mesh/edges/${edgeName}` },
                  ],
                  `Mesh size along ${part.name} / ${edgeName}`,
                )
              }
            />
          )}
        </Section>
      )}
      {part.recipe.file && face !== undefined && <DropFeatures id={info.id} part={part} face={face} />}
      <Switch
        label="In the analysis"
        checked={part.in_analysis}
        onChange={(on) =>
          tell(onEdit([put(`${path}/in_analysis`, on)], `${on ? "Take in" : "Leave out"} ${part.name}`))
        }
      />
      <Switch
        label="Judge sharp edges too"
        checked={part.judged === "everywhere"}
        onChange={(on) =>
          tell(onEdit([put(`${path}/judged`, on ? "everywhere" : "away")], `Judge sharp edges of ${part.name}`))
        }
      />
      {!part.in_analysis && <p className="text-quiet">Drawn only: what hangs on it sleeps, see preflight.</p>}
      <Section title="On the stage">
        <div className="flex flex-wrap gap-1.5 py-1">
          <Button onClick={() => see({ ...sight, [part.id]: "hidden" })}>Hide</Button>
          <Button onClick={() => see({ ...sight, [part.id]: "ghost" })}>See through</Button>
          <Button
            onClick={() =>
              see(Object.fromEntries((study.parts ?? []).filter((p) => p.id !== part.id).map((p) => [p.id, "hidden"])))
            }
          >
            Only this
          </Button>
          {Object.keys(sight).length > 0 && <Button onClick={() => see({})}>Show all</Button>}
        </div>
      </Section>
      <Section title={part.recipe.file ? "File" : "Dimensions"}>
        {part.recipe.file && (
          <>
            <p className="truncate py-1" title={part.recipe.file.name}>
              {part.recipe.file.name}, solid {part.recipe.file.solid + 1}
            </p>
            <Button className="my-1" onClick={() => setReplacing(true)}>
              Replace the file
            </Button>
          </>
        )}
        {isShaped && (
          <Button
            className="my-1"
            onClick={() => draw({ kind: part.recipe.kind === "bent" ? "bent" : "drawn", part: part.id })}
          >
            {part.recipe.kind === "bent" ? "Change its runs…" : "Change the drawing…"}
          </Button>
        )}
        {dimensions.map((d) => (
          <div key={d.name}>
            <Field
              label={d.label}
              value={String(written[d.name] ?? d.usual)}
              onCommit={(text) =>
                onEdit(
                  [put(`${path}/recipe/dimensions/${d.name}`, d.isPlain ? number(text) : text)],
                  `${d.label} of ${part.name}`,
                )
              }
            />
            {values.data?.[d.name] !== undefined && (
              <p className="-mt-0.5 pb-0.5 text-right text-[12.5px] text-quiet">= {values.data[d.name]}</p>
            )}
          </div>
        ))}
        {features.map((feature) => (
          <Switch
            key={feature}
            label={`Without ${feature}`}
            checked={dropped.includes(feature)}
            onChange={(out) =>
              tell(
                onEdit(
                  [put(`${path}/recipe/dropped`, out ? [...dropped, feature] : dropped.filter((d) => d !== feature))],
                  `${feature} of ${part.name}`,
                ),
              )
            }
          />
        ))}
        <Select
          label="Modelled"
          value={part.recipe.kept}
          options={KEPT}
          onChange={(kept) => tell(onEdit([put(`${path}/recipe/kept`, kept)], `How much of ${part.name} is modelled`))}
        />
        {cuts.length > 0 && (
          <Button
            className="my-1"
            onClick={() => tell(onEdit(symmetryAt(study, part, cuts), `Symmetry of ${part.name}`))}
          >
            Hold the cut as symmetry
          </Button>
        )}
      </Section>
      {replacing && <StepImport info={info} replacing={part.id} onClose={() => setReplacing(false)} />}
      <Place part={part} path={path} onEdit={onEdit} />
      <Section title="Mesh">
        <Select
          label="Elements"
          value={part.mesh.elements}
          options={study.space === "solid" ? SOLID_ELEMENTS : PLANE_ELEMENTS}
          onChange={(kind) => tell(onEdit([put(`${path}/mesh/elements`, kind)], `Elements of ${part.name}`))}
        />
        <Select
          label="Pattern"
          value={part.mesh.pattern ?? "structured"}
          options={PATTERNS}
          onChange={(pattern) => tell(onEdit([put(`${path}/mesh/pattern`, pattern)], `Pattern of ${part.name}`))}
        />
        <Field
          label="Element size"
          value={part.mesh.size}
          onCommit={(text) => onEdit([put(`${path}/mesh/size`, text)], `Mesh size of ${part.name}`)}
        />
        {study.space === "solid" && (
          <>
            <Field
              label="Layers"
              value={part.mesh.layers == null ? "" : String(part.mesh.layers)}
              placeholder="by the size"
              onCommit={(text) =>
                onEdit([put(`${path}/mesh/layers`, text ? number(text) : null)], `Layers of ${part.name}`)
              }
            />
            {part.mesh.layers != null && (
              <Field
                label="Last layer to the first"
                value={String(part.mesh.layer_ratio)}
                onCommit={(text) =>
                  onEdit([put(`${path}/mesh/layer_ratio`, number(text))], `Growth of the layers of ${part.name}`)
                }
              />
            )}
          </>
        )}
        <Field
          label="Elements a turn"
          value={String(part.mesh.per_turn)}
          onCommit={(text) => onEdit([put(`${path}/mesh/per_turn`, number(text))], `Elements a turn of ${part.name}`)}
        />
      </Section>
      <Spots part={part} path={path} onEdit={onEdit} />
      <Regions part={part} path={path} onEdit={onEdit} />
      <CopyPart id={info.id} part={part} />
      <CutParts id={info.id} study={study} part={part} />
      {CAN_BE_TIGHTENED.includes(part.recipe.kind) && !(study.bolts ?? []).some((b) => b.part === part.id) && (
        <Button
          className="mt-1 mr-2"
          onClick={() => {
            const chosen = whenDone();
            tell(tighten(study, part, onEdit).then((id) => chosen({ kind: "bolt", id })));
          }}
        >
          Tighten it
        </Button>
      )}
      <TakeOut study={info.id} kind="part" item={part} label="Take the part out" />
    </>
  );
}

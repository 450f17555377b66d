import type { PartUse } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { Head, type InspectorProps, put } from "./Inspector";
import { number } from "./PairInspector";
import { CAN_BE_TIGHTENED, FaceActions, Place, takeOut, tighten } from "./PartPlace";

const SOLID_ELEMENTS = [
  { value: "bricks", label: "Bricks" },
  { value: "wedges", label: "Wedges, stiff in bending" },
  { value: "tets", label: "Tetrahedra, second order" },
  { value: "beam", label: "Beam along z, outline touches" },
];
const NONE = "-";
const PLANE_ELEMENTS = [
  { value: "bricks", label: "Quads, 4 nodes" },
  { value: "second-order", label: "Quads, 8 nodes" },
  { value: "tets", label: "Triangles, 6 nodes" },
];

export function PartInspector({ study, part, path, onEdit, recipes, face, faces, onMate }: InspectorProps & { part: PartUse; path: string; face: string | undefined }) {
  const recipe = recipes.find((r) => r.kind === part.recipe.kind);
  const written = part.recipe.dimensions ?? {};
  const { select } = useSelection();
  const faceSize = face === undefined ? undefined : part.mesh.faces?.[face];
  return (
    <>
      <Head kind={`Part · ${recipe?.label ?? part.recipe.kind}`} name={part.name} />
      <Select
        label="Material"
        value={part.material}
        options={(study.materials ?? []).map((m) => ({ value: m.id, label: m.name }))}
        onChange={(id) => void onEdit([put(`${path}/material`, id)], `Material of ${part.name}`)}
      />
      <Select
        label="Face"
        value={face ?? NONE}
        options={[{ value: NONE, label: "none picked" }, ...(faces[part.id] ?? []).map((name) => ({ value: name, label: name }))]}
        onChange={(name) => select(name !== NONE ? { kind: "part", id: part.id, face: name } : { kind: "part", id: part.id })}
      />
      {face !== undefined && (
        <Section title={`Picked face · ${face}`}>
          <FaceActions study={study} part={part} face={face} onEdit={onEdit} onMate={onMate} />
          <Field
            label="Mesh size here"
            value={faceSize ?? part.mesh.size}
            onCommit={(text) => onEdit([put(`${path}/mesh/faces`, { ...part.mesh.faces, [face]: text })], `Mesh size of ${part.name} / ${face}`)}
          />
        </Section>
      )}
      <Section title="Dimensions">
        {recipe?.dimensions.map((d) => {
          const unit = { length: " mm", angle: " deg" }[d.kind] ?? "";
          return (
            <Field
              key={d.name}
              label={d.label}
              value={String(written[d.name] ?? `${d.default}${unit}`)}
              onCommit={(text) => onEdit([put(`${path}/recipe/dimensions/${d.name}`, d.kind === "length" || d.kind === "angle" ? text : number(text))], `${d.label} of ${part.name}`)}
            />
          );
        })}
      </Section>
      <Place part={part} path={path} onEdit={onEdit} />
      <Section title="Mesh">
        <Select
          label="Elements"
          value={part.mesh.elements ?? "bricks"}
          options={study.space === "solid" ? SOLID_ELEMENTS : PLANE_ELEMENTS}
          onChange={(kind) => void onEdit([put(`${path}/mesh/elements`, kind)], `Elements of ${part.name}`)}
        />
        <Field label="Element size" value={part.mesh.size} onCommit={(text) => onEdit([put(`${path}/mesh/size`, text)], `Mesh size of ${part.name}`)} />
        <Field label="Elements a turn" value={String(part.mesh.per_turn ?? 24)} onCommit={(text) => onEdit([put(`${path}/mesh/per_turn`, number(text))], `Elements a turn of ${part.name}`)} />
      </Section>
      {CAN_BE_TIGHTENED.includes(part.recipe.kind) && !(study.bolts ?? []).some((b) => b.part === part.id) && (
        <Button className="mt-1 mr-2" onClick={() => void tighten(study, part, onEdit).then((id) => select({ kind: "bolt", id }))}>Tighten it</Button>
      )}
      <Button tone="danger" className="mt-1" onClick={() => void onEdit(takeOut(study, part.id), `Take out ${part.name}`)}>Take the part out</Button>
    </>
  );
}

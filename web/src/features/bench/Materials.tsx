import { useState } from "react";

import type { Material, StudyDocument } from "@/api/client";
import { useGrades, useOwnMaterials } from "@/api/hooks";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";

import { CurveDialog } from "./CurveDialog";
import { RubberDialog } from "./RubberDialog";
import { hardeningOf, tableText } from "./hardening";
import { type EditFn, freeId, number, put } from "./edits";
import { TakeOut } from "./TakeOut";

const NONE = "-";
/** Before the names of materials of one's own, which may be those of grades. */
const OWN = "own/";

/** The materials of a study: their values, grades to add, and those that no part uses to take out. */
export function Materials({ id, study, onEdit }: { id: number; study: StudyDocument; onEdit: EditFn }) {
  const grades = useGrades();
  const { kept } = useOwnMaterials();
  const own = kept.data ?? [];
  const add = (choice: string) => {
    const grade = choice.startsWith(OWN)
      ? own.find((m) => m.name === choice.slice(OWN.length))
      : grades.data?.find((g) => g.id === choice);
    if (grade)
      tell(
        onEdit(
          [{ op: "add", path: "/materials/-", value: { ...grade, id: freeId(grade.id, study.materials) } }],
          `Add ${grade.name}`,
        ),
      );
  };
  return (
    <>
      {(study.materials ?? []).map((material, i) => (
        <Section key={material.id} title={material.name}>
          <OneMaterial
            id={id}
            material={material}
            path={`/materials/${i}`}
            onEdit={onEdit}
            isUsed={(study.parts ?? []).some((p) => p.material === material.id)}
          />
        </Section>
      ))}
      <Select
        label="Add a material"
        value={NONE}
        options={[
          { value: NONE, label: "choose a grade" },
          ...own.map((m) => ({ value: `${OWN}${m.name}`, label: `${m.name}, my own` })),
          ...(grades.data ?? []).map((g) => ({ value: g.id, label: g.name })),
        ]}
        onChange={add}
      />
    </>
  );
}

function OneMaterial({
  id,
  material,
  path,
  onEdit,
  isUsed,
}: {
  id: number;
  material: Material;
  path: string;
  onEdit: EditFn;
  isUsed: boolean;
}) {
  const text = (key: string, label: string, value: string | null | undefined) => (
    <Field
      label={label}
      value={value ?? ""}
      onCommit={(t) => onEdit([put(`${path}/${key}`, t || null)], `${label} of ${material.name}`)}
    />
  );
  const [isReading, setReading] = useState(false);
  const { kept, keep, drop } = useOwnMaterials();
  const before = kept.data?.find((m) => m.name === material.name);
  const isKept = !!before && JSON.stringify({ ...before, id: material.id }) === JSON.stringify(material);
  const rubber = material.rubber;
  const Reading = rubber ? RubberDialog : CurveDialog;
  return (
    <>
      <Field
        label="Name"
        wide
        value={material.name}
        onCommit={(t) => onEdit([put(`${path}/name`, t)], "Name of a material")}
      />
      {rubber ? (
        <>
          {text("rubber/c10", "Constant C10", rubber.c10)}
          {text("rubber/c01", "Constant C01", rubber.c01)}
          {text("rubber/bulk", "Bulk modulus", rubber.bulk)}
        </>
      ) : (
        <>
          {text("young", "Young's modulus", material.young)}
          <Field
            label="Poisson's ratio"
            value={String(material.poisson)}
            onCommit={(t) => onEdit([put(`${path}/poisson`, number(t))], `Poisson's ratio of ${material.name}`)}
          />
          {!material.hardening && text("yield_stress", "Yield stress", material.yield_stress)}
          <Field
            label="Yields by table"
            wide
            placeholder="0: 355 MPa, 0.05: 460 MPa"
            value={tableText(material.hardening)}
            onCommit={(t) =>
              onEdit([put(`${path}/hardening`, hardeningOf(t, material.hardening))], `Hardening of ${material.name}`)
            }
          />
        </>
      )}
      <Button className="my-1" onClick={() => setReading(true)}>
        {rubber ? "Constants from a test" : "Curve from a sheet"}
      </Button>
      {isReading && <Reading material={material} path={path} onEdit={onEdit} onClose={() => setReading(false)} />}
      {material.hardening && (
        <Field
          label="Kinematic share"
          value={String(material.hardening.kinematic_share)}
          onCommit={(t) =>
            onEdit([put(`${path}/hardening/kinematic_share`, number(t))], `Kinematic share of ${material.name}`)
          }
        />
      )}
      {text("allowable", "Allowable stress", material.allowable)}
      <Field
        label="Safety against yield"
        value={material.safety == null ? "" : String(material.safety)}
        onCommit={(t) =>
          onEdit([put(`${path}/safety`, t ? number(t) : null)], `Safety against yield of ${material.name}`)
        }
      />
      {text("density", "Density", material.density)}
      <Button
        className="my-1 mr-2"
        disabled={keep.isPending || drop.isPending}
        onClick={() => tell(isKept ? drop.mutateAsync(material.name) : keep.mutateAsync(material))}
      >
        {isKept ? "Keep it no longer" : before ? "Keep it as it is now" : "Keep it for other studies"}
      </Button>
      {!isUsed && <TakeOut study={id} kind="material" item={material} />}
    </>
  );
}

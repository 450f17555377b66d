import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";

import { Head, type InspectorProps, put } from "./Inspector";
import { number } from "./PairInspector";

export function StudyInspector({ info, study, onEdit, preflight }: InspectorProps) {
  const size = preflight?.size;
  return (
    <>
      <Head kind="Study" name={study.title} />
      <Field label="Title" wide value={study.title} onCommit={(text) => onEdit([put("/title", text)], "Title of the study")} />
      {study.notes && <p className="pb-2 text-quiet">{study.notes}</p>}
      {(study.materials ?? []).map((material, i) => (
        <Section key={material.id} title={material.name}>
          {material.rubber && <Row label="Rubber">C10 {material.rubber.c10}, bulk {material.rubber.bulk}</Row>}
          {material.hardening && <Row label="Yields from">{material.hardening.table[0]?.stress}</Row>}
          {!material.rubber && (
            <>
              <Field label="Young's modulus" value={material.young ?? ""} onCommit={(t) => onEdit([put(`/materials/${i}/young`, t)], `Young's modulus of ${material.name}`)} />
              <Field label="Poisson's ratio" value={String(material.poisson)} onCommit={(t) => onEdit([put(`/materials/${i}/poisson`, number(t))], `Poisson's ratio of ${material.name}`)} />
            </>
          )}
          <Field label="Allowable stress" value={material.allowable ?? ""} onCommit={(t) => onEdit([put(`/materials/${i}/allowable`, t || null)], `Allowable stress of ${material.name}`)} />
          {!material.rubber && !material.hardening && <Field label="Yield stress" value={material.yield_stress ?? ""} onCommit={(t) => onEdit([put(`/materials/${i}/yield_stress`, t || null)], `Yield stress of ${material.name}`)} />}
        </Section>
      ))}
      {study.space === "solid" && !!study.parts?.length && (
        <a className="self-start py-1 text-verdigris hover:underline" href={`/api/studies/${info.id}/assembly.step`} download>Write the assembly as STEP</a>
      )}
      {size && (
        <Section title="Size of the run">
          <Row label="Unknowns">{size.unknowns.toLocaleString("en").replaceAll(",", " ")}</Row>
          <Row label="At the joints">{size.joint_unknowns.toLocaleString("en").replaceAll(",", " ")}</Row>
          <Row label="Memory, about">{Math.round(size.memory_mb)} MB</Row>
          <Row label="Result file, about">{Math.round(size.result_mb)} MB</Row>
        </Section>
      )}
    </>
  );
}

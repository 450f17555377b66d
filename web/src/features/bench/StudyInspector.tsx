import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";

import { Materials } from "./Materials";
import { PointList } from "./PointInspectors";
import { type InspectorProps, put } from "./edits";
import { Head } from "./Head";

export function StudyInspector({ info, study, onEdit, preflight }: InspectorProps) {
  const size = preflight?.size;
  return (
    <>
      <Head kind="Study" name={study.title} />
      <Field
        label="Title"
        wide
        value={study.title}
        onCommit={(text) => onEdit([put("/title", text)], "Title of the study")}
      />
      {study.notes && <p className="pb-2 text-quiet">{study.notes}</p>}
      <Materials id={info.id} study={study} onEdit={onEdit} />
      <PointList study={study} />
      <a className="self-start py-1 text-verdigris hover:underline" href={`/api/studies/${info.id}/file`} download>
        Save the study as a file
      </a>
      {study.space === "solid" && !!study.parts?.length && (
        <a
          className="self-start py-1 text-verdigris hover:underline"
          href={`/api/studies/${info.id}/assembly.step`}
          download
        >
          Write the assembly as STEP
        </a>
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

import { spoken, useUnits } from "@/api/units";
import { whenDone } from "@/features/selection";
import { SPACES } from "@/features/spaces";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";

import { CutParts } from "./CutParts";
import { Materials } from "./Materials";
import { PointList } from "./PointInspectors";
import { type InspectorProps, freeId, put } from "./edits";
import { Head } from "./Head";

const PATHS = [
  { value: "automatic", label: "automatic" },
  { value: "condensed", label: "condensed to the joints" },
  { value: "mixed", label: "elastic interiors condensed" },
  { value: "full", label: "everything at once" },
  { value: "iterative", label: "iterated, nothing factored" },
];
const BODY_LOADS = [
  { kind: "gravity", label: "Gravity", value: "9.81 m/s^2" },
  { kind: "spin", label: "Spin", value: "100 rad/s" },
] as const;

export function StudyInspector({ info, study, onEdit, preflight }: InspectorProps) {
  const size = preflight?.size;
  const { ask } = useUnits();
  return (
    <>
      <Head kind="Study" name={study.title} />
      <Field
        label="Title"
        wide
        value={study.title}
        onCommit={(text) => onEdit([put("/title", text)], "Title of the study")}
      />
      <Field
        label="Machine"
        wide
        value={study.machine ?? ""}
        onCommit={(text) => onEdit([put("/machine", text)], "Machine of the study")}
      />
      <Field
        label="Notes"
        wide
        value={study.notes ?? ""}
        onCommit={(text) => onEdit([put("/notes", text)], "Notes of the study")}
      />
      {(study.notes ?? "").length > 22 && <p className="pb-1 text-[12.5px] text-quiet">{study.notes}</p>}
      <Section title="Kind of study">
        <Select
          label="Space"
          value={study.space}
          options={SPACES}
          onChange={(space) => tell(onEdit([put("/space", space)], "Space of the study"))}
        />
        {study.space?.startsWith("plane") && (
          <Field
            label="Thickness"
            value={study.thickness}
            onCommit={(text) => onEdit([put("/thickness", text)], "Thickness of the study")}
          />
        )}
        <Select
          label="Way of solution"
          value={study.path}
          options={PATHS}
          onChange={(path) => tell(onEdit([put("/path", path)], "Way of solution"))}
        />
      </Section>
      <Section title="Acting on all parts">
        <div className="flex gap-1.5 py-1">
          {BODY_LOADS.map(({ kind, label, value }) => (
            <Button
              key={kind}
              onClick={() => {
                const [id, select] = [freeId(kind, study.loads), whenDone()];
                const last = study.steps?.at(-1)?.id;
                const load = {
                  id,
                  name: label,
                  kind,
                  direction: kind === "gravity" ? [0, 0, -1] : [0, 0, 1],
                  values: last === undefined ? {} : { [last]: value },
                };
                tell(
                  onEdit([{ op: "add", path: "/loads/-", value: load }], `Add ${label.toLowerCase()}`).then(() =>
                    select({ kind: "load", id }),
                  ),
                );
              }}
            >
              {label}
            </Button>
          ))}
        </div>
      </Section>
      <Materials id={info.id} study={study} onEdit={onEdit} />
      <PointList study={study} />
      {!!study.parts?.length && <CutParts id={info.id} study={study} />}
      <Button className="my-1" onClick={() => ask(true)}>
        Read values in {(["length", "force", "stress"] as const).map((q) => spoken(q).unit).join(", ")}…
      </Button>
      <a className="block w-fit py-1 text-verdigris hover:underline" href={`/api/studies/${info.id}/file`} download>
        Save the study as a file
      </a>
      {study.space === "solid" && !!study.parts?.length && (
        <a
          className="block w-fit py-1 text-verdigris hover:underline"
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
          <Row label="Solved">{PATHS.find(({ value }) => value === size.path)?.label}</Row>
          {study.path === "automatic" && <p className="text-quiet">Because {size.path_reason}.</p>}
          <Row label="Memory, about">{Math.round(size.memory_mb)} MB</Row>
          <Row label="Result file, about">{Math.round(size.result_mb)} MB</Row>
        </Section>
      )}
    </>
  );
}

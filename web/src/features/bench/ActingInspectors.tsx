import { useState } from "react";

import type { BoltUse, LoadUse, PartUse, PatchStep, SupportUse } from "@/api/client";
import { useThread } from "@/api/hooks";
import { type Quantity, loadSort } from "@/api/vocabulary";
import { area, force, length, spoken, usual } from "@/api/units";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { percent } from "@/ui/format";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";
import { SupportAxes } from "./AxesFields";
import { componentName } from "./axes";
import { type EditFn, type InspectorProps, number, put, replace } from "./edits";
import { Head } from "./Head";
import { CopyItem } from "./CopyItem";
import { CourseDialog } from "./CourseDialog";
import { courseOf, courseText, pointsIn } from "./courses";
import { FaceList } from "./FaceList";
import { InSteps } from "./InSteps";
import { NameField } from "./NameField";
import { TakeOut } from "./TakeOut";
import { AXES, Three } from "./Three";

/** A value for each step; an emptied entry is taken away, so that the step holds what was before. */
function PerStep({
  study,
  onEdit,
  owner,
  path,
  values,
  hint,
}: Pick<InspectorProps, "study" | "onEdit"> & {
  owner: string;
  path: string;
  values: Record<string, string>;
  hint: string;
}) {
  return (
    <>
      {(study.steps ?? []).map((step) => (
        <Field
          key={step.id}
          label={step.name}
          value={values[step.id] ?? ""}
          onCommit={(text) => {
            const at = `${path}/${step.id}`;
            return onEdit([text ? put(at, text) : { op: "remove", path: at }], `${owner} in ${step.name}`);
          }}
        />
      ))}
      <p className="text-[12.5px] text-quiet">{hint}</p>
    </>
  );
}

export function BoltInspector({ info, study, bolt, path, onEdit }: InspectorProps & { bolt: BoltUse; path: string }) {
  const part = study.parts?.find((p) => p.id === bolt.part);
  return (
    <>
      <Head kind={bolt.line ? "Line bolt" : "Bolts"} name={bolt.name} />
      <NameField name={bolt.name} path={path} onEdit={onEdit} />
      {bolt.line ? (
        <LineEnds study={study} bolt={bolt} line={bolt.line} path={`${path}/line`} onEdit={onEdit} />
      ) : (
        <>
          <Row label="Part">{part?.name ?? bolt.part}</Row>
          <Row label="Bolts">{part?.placements?.length ?? 1}</Row>
        </>
      )}
      <Choice
        label="Tightened by"
        value={bolt.torque ? "moment" : "force"}
        options={[
          { value: "force", label: "force" },
          { value: "moment", label: "moment" },
        ]}
        onChange={(how) => tell(onEdit(tightenedBy(how, bolt, part, path), `How ${bolt.name} is tightened`))}
      />
      {bolt.torque && (
        <>
          <Field
            label="Nut factor K"
            value={String(bolt.torque.nut_factor)}
            onCommit={(text) => onEdit([put(`${path}/torque/nut_factor`, number(text))], `Nut factor of ${bolt.name}`)}
          />
          <Field
            label="Nominal diameter"
            value={bolt.torque.diameter}
            onCommit={(text) => onEdit([put(`${path}/torque/diameter`, text)], `Diameter of ${bolt.name}`)}
          />
        </>
      )}
      <Section title={bolt.torque ? "Tightening moment by step" : "Preload by step"}>
        <PerStep
          study={study}
          onEdit={onEdit}
          owner={bolt.name}
          path={`${path}/preload`}
          values={bolt.preload ?? {}}
          hint={
            bolt.torque
              ? "Tightened with this moment in the step (T = K·d·F); in the others the length is kept."
              : "Tightened to this force in the step; in the others the length is kept."
          }
        />
      </Section>
      {part && part.recipe.kept && part.recipe.kept !== "whole" && (
        <Choice
          label="That is of"
          value={bolt.means ?? "modelled"}
          options={[
            { value: "modelled", label: `the ${part.recipe.kept}` },
            { value: "whole", label: "the whole bolt" },
          ]}
          onChange={(means) => tell(onEdit([put(`${path}/means`, means)], `What the preload of ${bolt.name} means`))}
        />
      )}
      <Proof
        bolt={bolt}
        part={part}
        preloads={info.amounts.bolts[bolt.id] ?? {}}
        share={info.amounts.shares?.[bolt.id] ?? 1}
        path={path}
        onEdit={onEdit}
      />
      <TakeOut study={info.id} kind="bolt" item={bolt} />
    </>
  );
}

const GROUND = "-";

/** Head and foot of a bolt that is a line, its direction into the ground, and its stiffness. */
function LineEnds({
  study,
  bolt,
  line,
  path,
  onEdit,
}: Pick<InspectorProps, "study" | "onEdit"> & {
  bolt: BoltUse;
  line: NonNullable<BoltUse["line"]>;
  path: string;
}) {
  const handles = (study.handles ?? []).map((h) => ({ value: h.id, label: h.name }));
  const direction = line.direction ?? [0, 0, 1];
  return (
    <Section title="From head to foot">
      <Select
        label="Head"
        value={line.head}
        options={handles}
        onChange={(id) => tell(onEdit([put(`${path}/head`, id)], `Head of ${bolt.name}`))}
      />
      <Select
        label="Foot"
        value={line.foot ?? GROUND}
        options={[{ value: GROUND, label: "in the ground" }, ...handles.filter((h) => h.value !== line.head)]}
        onChange={(id) =>
          tell(
            onEdit(
              [
                put(`${path}/foot`, id === GROUND ? null : id),
                ...(id === GROUND ? [put(`${path}/direction`, direction)] : []),
              ],
              `Foot of ${bolt.name}`,
            ),
          )
        }
      />
      {line.foot == null && (
        <Three
          label={(axis) => `out of the ground, ${axis}`}
          values={direction}
          path={`${path}/direction`}
          name={`Direction of ${bolt.name}`}
          onEdit={onEdit}
        />
      )}
      <Field
        label="Stiffness E·A/L"
        value={line.stiffness}
        onCommit={(text) => onEdit([put(`${path}/stiffness`, text)], `Stiffness of ${bolt.name}`)}
      />
    </Section>
  );
}

/** Another way of tightening: values in another unit cannot stay, so each begins with what is usual. */
function tightenedBy(how: string, bolt: BoltUse, part: PartUse | undefined, path: string): PatchStep[] {
  const begin = usual(how === "moment" ? "100 N·m" : "10 kN");
  const preload = Object.fromEntries(Object.keys(bolt.preload ?? {}).map((step) => [step, begin]));
  const written = part?.recipe.dimensions?.diameter;
  const diameter = written === undefined ? "16 mm" : String(written);
  return [replace(path, { ...bolt, preload, torque: how === "moment" ? { nut_factor: 0.2, diameter } : null })];
}

const NO_CLASS = "-";
const CLASSES = [
  { value: NO_CLASS, label: "not given" },
  ...["4.6", "5.6", "5.8", "6.8", "8.8", "10.9", "12.9"].map((c) => ({ value: c, label: c })),
];

type ProofProps = {
  bolt: BoltUse;
  part: PartUse | undefined;
  preloads: Record<string, number>;
  /** What the preloads are of the whole bolt. */
  share: number;
  path: string;
  onEdit: EditFn;
};

/** The property class that a bolt is judged by, and the largest preload beside its proof load: for metric sizes. */
function Proof({ bolt, part, preloads, share, path, onEdit }: ProofProps) {
  const diameter = part ? part.recipe.dimensions?.diameter : bolt.torque?.diameter;
  const thread = useThread(diameter === undefined ? undefined : String(diameter), bolt.strength ?? "8.8");
  const most = Math.max(...Object.values(preloads));
  return (
    <Section title="Thread, as if the shank were its size (ISO 724, ISO 898-1)">
      <Select
        label="Property class"
        value={bolt.strength ?? NO_CLASS}
        options={CLASSES}
        onChange={(c) =>
          tell(onEdit([put(`${path}/strength`, c === NO_CLASS ? null : c)], `Property class of ${bolt.name}`))
        }
      />
      {!bolt.strength && <p className="text-[12.5px] text-quiet">With a class the bolt is judged by its proof load.</p>}
      {thread.data && (
        <>
          <Row label="Pitch">{length(thread.data.pitch)}</Row>
          <Row label="Stress area">{area(thread.data.stress_area)}</Row>
        </>
      )}
      {thread.data && bolt.strength && (
        <>
          <Row label="Proof load">{force(thread.data.proof_load)}</Row>
          {Number.isFinite(most) && <Row label="Preload uses">{percent(most / share / thread.data.proof_load)}</Row>}
        </>
      )}
    </Section>
  );
}

const unitOf = (quantity: Quantity) => spoken(quantity).unit;

/** The faces or the handle that something acts on. */
function ActsOn({
  study,
  item,
  path,
  onEdit,
  title,
}: Pick<InspectorProps, "study" | "onEdit"> & {
  item: { name: string; faces?: string[]; handle?: string | null };
  path: string;
  title: string;
}) {
  return (
    <Section title={title}>
      {item.handle ? (
        <Select
          label="Handle"
          value={item.handle}
          options={(study.handles ?? []).map((h) => ({ value: h.id, label: h.name }))}
          onChange={(id) => tell(onEdit([put(`${path}/handle`, id)], `Handle of ${item.name}`))}
        />
      ) : (
        <FaceList study={study} path={`${path}/faces`} name={item.name} faces={item.faces ?? []} onEdit={onEdit} />
      )}
    </Section>
  );
}
const TURNS = ["turn-x", "turn-y", "turn-z"] as const;

export function LoadInspector({ info, study, load, path, onEdit }: InspectorProps & { load: LoadUse; path: string }) {
  const sort = loadSort(load.kind);
  const [drawnStep, setDrawn] = useState<string>();
  const drawn = study.steps?.find((s) => s.id === drawnStep);
  return (
    <>
      <Head kind={`Load · ${sort.label.toLowerCase()}`} name={load.name} />
      <NameField name={load.name} path={path} onEdit={onEdit} />
      {sort.acts_on === "all" ? (
        <Row label="Acts on">all parts</Row>
      ) : (
        <ActsOn study={study} item={load} path={path} onEdit={onEdit} title="Acts on" />
      )}
      {sort.is_about_axis && (
        <Section title="About an axis through">
          <Three
            label={(axis) => `through ${axis}`}
            values={load.centre}
            path={`${path}/centre`}
            name={`Axis of ${load.name}`}
            onEdit={onEdit}
          />
        </Section>
      )}
      {load.kind === "radial" && (
        <Switch
          label="On average, nothing is stiffened"
          checked={load.on_average ?? false}
          onChange={(next) => tell(onEdit([put(`${path}/on_average`, next)], `How ${load.name} moves its faces`))}
        />
      )}
      {sort.has_direction && (
        <Section title="Direction">
          <Three
            label={(axis) => axis}
            values={load.direction ?? [0, 0, 0]}
            path={`${path}/direction`}
            name={`Direction of ${load.name}`}
            onEdit={onEdit}
          />
        </Section>
      )}
      <Section title="Value at the end of each step">
        <PerStep
          study={study}
          onEdit={onEdit}
          owner={load.name}
          path={`${path}/values`}
          values={load.values ?? {}}
          hint="An empty step holds the last value; “off” takes it away."
        />
      </Section>
      <Section title="Course within a step">
        {(study.steps ?? []).map((step) => (
          <Field
            key={step.id}
            label={`through ${step.name}`}
            wide
            placeholder={`0: 0 ${unitOf(sort.quantity)}, 0.5: …`}
            value={courseText(load.courses?.[step.id])}
            onCommit={(text) => {
              const at = `${path}/courses/${step.id}`;
              return onEdit(
                [text ? put(at, courseOf(text)) : { op: "remove", path: at }],
                `Course of ${load.name} in ${step.name}`,
              );
            }}
          />
        ))}
        <p className="text-[12.5px] text-quiet">Points as share of the step: value. The end is the value above.</p>
        <div className="flex flex-wrap gap-1.5 py-1">
          {(study.steps ?? []).map((step) => (
            <Button key={step.id} onClick={() => setDrawn(step.id)}>
              Draw {step.name}
            </Button>
          ))}
        </div>
        {drawn && (
          <CourseDialog
            load={load}
            path={path}
            step={drawn}
            points={pointsIn(study, info.amounts, load, drawn)}
            onEdit={onEdit}
            onClose={() => setDrawn(undefined)}
          />
        )}
      </Section>
      {sort.prescribes && (
        <InSteps
          title="Moves in, else lets go"
          study={study}
          path={path}
          name={load.name}
          released={load.released ?? []}
          onEdit={onEdit}
        />
      )}
      <CopyItem kind="load" item={load} among={study.loads} onEdit={onEdit} />
      <TakeOut study={info.id} kind="load" item={load} />
    </>
  );
}

const KINDS = [
  { value: "fixed", label: "all" },
  { value: "components", label: "some" },
  { value: "symmetry", label: "symmetry" },
] as const;

export function SupportInspector({
  info,
  study,
  support,
  path,
  onEdit,
}: InspectorProps & { support: SupportUse; path: string }) {
  const components = support.components ?? [];
  const known = support.handle ? [...AXES, ...TURNS] : AXES;
  return (
    <>
      <Head kind="Support" name={support.name} />
      <NameField name={support.name} path={path} onEdit={onEdit} />
      <Choice
        label="Holds"
        value={support.kind}
        options={KINDS}
        onChange={(kind) =>
          tell(
            onEdit(
              [
                put(`${path}/kind`, kind),
                ...(kind === "components" && !components.length ? [put(`${path}/components`, ["x", "y", "z"])] : []),
              ],
              `Kind of ${support.name}`,
            ),
          )
        }
      />
      {support.kind === "components" && (
        <div role="group" aria-label="Directions held" className="flex flex-wrap gap-x-3 gap-y-1 py-1">
          {known.map((axis) => (
            <label key={axis} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={components.includes(axis)}
                onChange={(e) => {
                  const next = known.filter((a) => (a === axis ? e.target.checked : components.includes(a)));
                  if (next.length) tell(onEdit([put(`${path}/components`, next)], `Directions of ${support.name}`));
                }}
              />
              {componentName(axis, support.axes)}
            </label>
          ))}
        </div>
      )}
      {support.kind === "components" && (
        <SupportAxes study={info.id} support={support} path={`${path}/axes`} onEdit={onEdit} />
      )}
      <ActsOn study={study} item={support} path={path} onEdit={onEdit} title="Held" />
      <InSteps
        title="Holds in"
        study={study}
        path={path}
        name={support.name}
        released={support.released ?? []}
        onEdit={onEdit}
      />
      <CopyItem kind="support" item={support} among={study.supports} onEdit={onEdit} />
      <TakeOut study={info.id} kind="support" item={support} />
    </>
  );
}

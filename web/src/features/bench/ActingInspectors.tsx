import { useState } from "react";

import type { BoltUse, LoadUse, PartUse, SupportUse } from "@/api/client";
import { useThread } from "@/api/hooks";
import { loadSort } from "@/api/vocabulary";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { figure, force, percent } from "@/ui/format";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { type InspectorProps, number, put } from "./edits";
import { Head } from "./Head";
import { TakeOut } from "./TakeOut";

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
      <Head kind="Bolts" name={bolt.name} />
      <Row label="Part">{part?.name ?? bolt.part}</Row>
      <Row label="Bolts">{part?.placements?.length ?? 1}</Row>
      <Section title="Preload by step">
        <PerStep
          study={study}
          onEdit={onEdit}
          owner={bolt.name}
          path={`${path}/preload`}
          values={bolt.preload ?? {}}
          hint="Tightened to this force in the step; in the others the length is kept."
        />
      </Section>
      {part && <Proof part={part} preloads={info.amounts.bolts[bolt.id] ?? {}} />}
      <TakeOut study={info.id} kind="bolt" item={bolt} />
    </>
  );
}

const CLASSES = ["4.6", "5.6", "5.8", "6.8", "8.8", "10.9", "12.9"].map((c) => ({ value: c, label: c }));

/** The largest preload beside the proof load of a property class, for shanks that are a metric size. */
function Proof({ part, preloads }: { part: PartUse; preloads: Record<string, number> }) {
  const [strength, setStrength] = useState("8.8");
  const diameter = part.recipe.dimensions?.diameter;
  const thread = useThread(diameter === undefined ? undefined : String(diameter), strength);
  const most = Math.max(...Object.values(preloads));
  if (!thread.data) return null;
  return (
    <Section title="Thread, as if the shank were its size (ISO 724, ISO 898-1)">
      <Select label="Property class" value={strength} options={CLASSES} onChange={setStrength} />
      <Row label="Pitch">{figure(thread.data.pitch)} mm</Row>
      <Row label="Stress area">{figure(thread.data.stress_area)} mm²</Row>
      <Row label="Proof load">{force(thread.data.proof_load)}</Row>
      {Number.isFinite(most) && <Row label="Preload uses">{percent(most / thread.data.proof_load)}</Row>}
    </Section>
  );
}

const AXES = ["x", "y", "z"] as const;
const TURNS = ["turn-x", "turn-y", "turn-z"] as const;

export function LoadInspector({ info, study, load, path, onEdit }: InspectorProps & { load: LoadUse; path: string }) {
  const direction = load.direction ?? [0, 0, 0];
  const sort = loadSort(load.kind);
  return (
    <>
      <Head kind={`Load · ${sort.label.toLowerCase()}`} name={load.name} />
      <Row label="Acts on">{load.handle ? `handle ${load.handle}` : (load.faces ?? []).join(", ") || "all parts"}</Row>
      {sort.has_direction && (
        <Section title="Direction">
          {AXES.map((axis, i) => (
            <Field
              key={axis}
              label={axis}
              value={String(direction[i] ?? 0)}
              onCommit={(text) =>
                onEdit(
                  [
                    put(
                      `${path}/direction`,
                      direction.map((d, k) => (k === i ? number(text) : d)),
                    ),
                  ],
                  `Direction of ${load.name}`,
                )
              }
            />
          ))}
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
      <Choice
        label="Holds"
        value={support.kind ?? "fixed"}
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
        <div className="flex flex-wrap gap-x-3 gap-y-1 py-1">
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
              {axis.replace("turn-", "turn ")}
            </label>
          ))}
        </div>
      )}
      <Section title={support.handle ? "Handle" : "Faces"}>
        {support.handle && <p>{study.handles?.find((h) => h.id === support.handle)?.name ?? support.handle}</p>}
        {(support.faces ?? []).map((face) => (
          <p key={face}>{face}</p>
        ))}
      </Section>
      <TakeOut study={info.id} kind="support" item={support} />
    </>
  );
}

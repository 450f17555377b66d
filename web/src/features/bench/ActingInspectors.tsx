import type { BoltUse, LoadUse, SupportUse } from "@/api/client";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";

import { Head, type InspectorProps, TakeOut, put } from "./Inspector";
import { number } from "./PairInspector";

/** A value for each step; an emptied entry is taken away, so that the step holds what was before. */
function PerStep({ study, onEdit, owner, path, values, hint }: Pick<InspectorProps, "study" | "onEdit"> & { owner: string; path: string; values: Record<string, string>; hint: string }) {
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

export function BoltInspector({ study, bolt, path, onEdit }: InspectorProps & { bolt: BoltUse; path: string }) {
  const part = study.parts?.find((p) => p.id === bolt.part);
  return (
    <>
      <Head kind="Bolts" name={bolt.name} />
      <Row label="Part">{part?.name ?? bolt.part}</Row>
      <Row label="Bolts">{part?.placements?.length ?? 1}</Row>
      <Section title="Preload by step">
        <PerStep study={study} onEdit={onEdit} owner={bolt.name} path={`${path}/preload`} values={bolt.preload ?? {}} hint="Tightened to this force in the step; in the others the length is kept." />
      </Section>
      <TakeOut path={path} name={bolt.name} onEdit={onEdit} />
    </>
  );
}

const AXES = ["x", "y", "z"] as const;
const TURNS = ["turn-x", "turn-y", "turn-z"] as const;

const LOAD_KINDS: Record<LoadUse["kind"], string> = {
  force: "Load · force",
  pressure: "Load · pressure",
  moment: "Load · moment",
  displacement: "Load · prescribed displacement",
  rotation: "Load · prescribed rotation",
  gravity: "Load · gravity",
  spin: "Load · spin",
};

export function LoadInspector({ study, load, path, onEdit }: InspectorProps & { load: LoadUse; path: string }) {
  const direction = load.direction ?? [0, 0, 0];
  return (
    <>
      <Head kind={LOAD_KINDS[load.kind]} name={load.name} />
      <Row label="Acts on">{load.handle ? `handle ${load.handle}` : (load.faces ?? []).join(", ") || "all parts"}</Row>
      {load.kind !== "pressure" && (
        <Section title="Direction">
          {AXES.map((axis, i) => (
            <Field
              key={axis}
              label={axis}
              value={String(direction[i] ?? 0)}
              onCommit={(text) => onEdit([put(`${path}/direction`, direction.map((d, k) => (k === i ? number(text) : d)))], `Direction of ${load.name}`)}
            />
          ))}
        </Section>
      )}
      <Section title="Value at the end of each step">
        <PerStep study={study} onEdit={onEdit} owner={load.name} path={`${path}/values`} values={load.values ?? {}} hint="An empty step holds the last value; “off” takes it away." />
      </Section>
      <TakeOut path={path} name={load.name} onEdit={onEdit} />
    </>
  );
}

const KINDS = [
  { value: "fixed", label: "all" },
  { value: "components", label: "some" },
  { value: "symmetry", label: "symmetry" },
] as const;

export function SupportInspector({ study, support, path, onEdit }: InspectorProps & { support: SupportUse; path: string }) {
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
          void onEdit(
            [put(`${path}/kind`, kind), ...(kind === "components" && !components.length ? [put(`${path}/components`, ["x", "y", "z"])] : [])],
            `Kind of ${support.name}`,
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
                  if (next.length) void onEdit([put(`${path}/components`, next)], `Directions of ${support.name}`);
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
      <TakeOut path={path} name={support.name} onEdit={onEdit} />
    </>
  );
}

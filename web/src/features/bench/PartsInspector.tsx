import type { PartUse, PatchStep } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { tell } from "@/ui/notices";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { type InspectorProps, put } from "./edits";
import { Head } from "./Head";

const SEVERAL = "-";

/** What several parts have in common, changed for all of them in one step. */
export function PartsInspector({ study, ids, onEdit }: InspectorProps & { ids: readonly string[] }) {
  const { sight, see, select } = useSelection();
  const parts = (study.parts ?? []).filter((p) => ids.includes(p.id));
  const others = (study.parts ?? []).filter((p) => !ids.includes(p.id));
  const all = (patch: (part: PartUse, path: string) => PatchStep, label: string) =>
    onEdit(
      parts.map((p) => patch(p, `/parts/${(study.parts ?? []).indexOf(p)}`)),
      `${label} of ${parts.length} parts`,
    );
  const material = common(parts.map((p) => p.material));
  const isIn = common(parts.map((p) => p.in_analysis));
  const seen = (how: "hidden" | "ghost", list: PartUse[]) =>
    see({ ...sight, ...Object.fromEntries(list.map((p) => [p.id, how])) });
  return (
    <>
      <Head kind="Selected together" name={`${parts.length} parts`} />
      {parts.map((p) => (
        <Row key={p.id} label={p.name}>
          {(study.materials ?? []).find((m) => m.id === p.material)?.name ?? p.material}
        </Row>
      ))}
      <Section title="For all of them">
        <Select
          label="Material"
          value={material ?? SEVERAL}
          options={[
            ...(material === undefined ? [{ value: SEVERAL, label: "several" }] : []),
            ...(study.materials ?? []).map((m) => ({ value: m.id, label: m.name })),
          ]}
          onChange={(id) => id !== SEVERAL && tell(all((_, path) => put(`${path}/material`, id), "Material"))}
        />
        <Field
          label="Element size"
          value={common(parts.map((p) => p.mesh.size)) ?? ""}
          placeholder="several"
          onCommit={(text) => all((_, path) => put(`${path}/mesh/size`, text), "Mesh size")}
        />
      </Section>
      <div className="flex flex-wrap gap-1.5 py-1">
        {[true, false].map((on) => (
          <Button
            key={String(on)}
            disabled={isIn === on}
            onClick={() => tell(all((_, path) => put(`${path}/in_analysis`, on), on ? "Taking in" : "Leaving out"))}
          >
            {on ? "Take them in" : "Leave them out"}
          </Button>
        ))}
        <Button onClick={() => seen("hidden", parts)}>Hide</Button>
        <Button onClick={() => seen("ghost", parts)}>See through</Button>
        <Button onClick={() => see(Object.fromEntries(others.map((p) => [p.id, "hidden"])))}>Only these</Button>
        <Button onClick={() => select({ kind: "study", id: "" })}>Let go of them</Button>
      </div>
      <p className="text-[12.5px] text-quiet">Shift and a click on stage or map takes a part in or out.</p>
    </>
  );
}

/** What all values are, undefined where they differ. */
function common<T>(values: readonly T[]): T | undefined {
  return values.every((v) => v === values[0]) ? values[0] : undefined;
}

import type { PatchStep, StepUse, StudyDocument } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";

import { Head, type InspectorProps, put } from "./Inspector";
import { number } from "./PairInspector";

const SETTINGS = [
  { key: "start", label: "First increment", usual: 0.25 },
  { key: "least", label: "Least increment", usual: 0.01 },
  { key: "largest", label: "Largest increment", usual: 0.25 },
  { key: "most", label: "Increments at most", usual: 60 },
] as const;

export function StepInspector({ study, step, path, onEdit }: InspectorProps & { step: StepUse; path: string }) {
  const { select } = useSelection();
  return (
    <>
      <Head kind="Step" name={step.name} />
      <Field label="Name" wide value={step.name} onCommit={(text) => onEdit([put(`${path}/name`, text)], "Name of a step")} />
      <Section title="Increments, as shares of the step">
        {SETTINGS.map(({ key, label, usual }) => (
          <Field
            key={key}
            label={label}
            value={String(step.increments?.[key] ?? usual)}
            onCommit={(text) => onEdit([put(`${path}/increments`, { ...step.increments, [key]: number(text) })], `${label} of ${step.name}`)}
          />
        ))}
        <p className="text-[12.5px] text-quiet">An increment that does not converge is halved; easy ones grow.</p>
      </Section>
      {(study.steps ?? []).length > 1 && (
        <Button tone="danger" className="mt-2" onClick={() => void onEdit(withoutStep(study, step.id), `Take out ${step.name}`).then(() => select({ kind: "study", id: "" }))}>Take the step out</Button>
      )}
    </>
  );
}

/** Take a step out, and all that was to happen in it. */
export function withoutStep(study: StudyDocument, id: string): PatchStep[] {
  const less = <T,>(values: Record<string, T> | undefined) => Object.fromEntries(Object.entries(values ?? {}).filter(([step]) => step !== id));
  const stays = <T extends { released?: string[] }>(list: T[] | undefined) => (list ?? []).map((item) => ({ ...item, released: (item.released ?? []).filter((step) => step !== id) }));
  return [
    put("/steps", (study.steps ?? []).filter((step) => step.id !== id)),
    put("/loads", stays(study.loads).map((load) => ({ ...load, values: less(load.values), courses: less(load.courses) }))),
    put("/bolts", (study.bolts ?? []).map((bolt) => ({ ...bolt, preload: less(bolt.preload) }))),
    put("/pairs", stays(study.pairs)),
    put("/supports", stays(study.supports)),
  ];
}

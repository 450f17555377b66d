import type { StepUse } from "@/api/client";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { type InspectorProps, number, put } from "./edits";
import { Head } from "./Head";
import { TakeOut } from "./TakeOut";

const SETTINGS = [
  { key: "start", label: "First increment", usual: 0.25 },
  { key: "least", label: "Least increment", usual: 0.01 },
  { key: "largest", label: "Largest increment", usual: 0.25 },
  { key: "most", label: "Increments at most", usual: 60 },
] as const;

export function StepInspector({ info, study, step, path, onEdit }: InspectorProps & { step: StepUse; path: string }) {
  return (
    <>
      <Head kind="Step" name={step.name} />
      <Field
        label="Name"
        wide
        value={step.name}
        onCommit={(text) => onEdit([put(`${path}/name`, text)], "Name of a step")}
      />
      <Section title="Increments, as shares of the step">
        {SETTINGS.map(({ key, label, usual }) => (
          <Field
            key={key}
            label={label}
            value={String(step.increments?.[key] ?? usual)}
            onCommit={(text) =>
              onEdit(
                [put(`${path}/increments`, { ...step.increments, [key]: number(text) })],
                `${label} of ${step.name}`,
              )
            }
          />
        ))}
        <p className="text-[12.5px] text-quiet">An increment that does not converge is halved; easy ones grow.</p>
      </Section>
      {(study.steps ?? []).length > 1 && <TakeOut study={info.id} kind="step" item={step} label="Take the step out" />}
    </>
  );
}

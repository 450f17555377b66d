import type { StepUse } from "@/api/client";
import { whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";
import { type InspectorProps, number, put } from "./edits";
import { Head } from "./Head";
import { NameField } from "./NameField";
import { copyOfStep, movedStep } from "./steps";
import { TakeOut } from "./TakeOut";

const SETTINGS = [
  { key: "start", label: "First increment" },
  { key: "least", label: "Least increment" },
  { key: "largest", label: "Largest increment" },
  { key: "most", label: "Increments at most" },
  { key: "keep_every", label: "Keep results of every" },
] as const;

const USUAL_DYNAMICS = { duration: "0.1 s", damping: 0 };

export function StepInspector({ info, study, step, path, onEdit }: InspectorProps & { step: StepUse; path: string }) {
  return (
    <>
      <Head kind="Step" name={step.name} />
      <NameField name={step.name} path={path} onEdit={onEdit} />
      <Switch
        label="In the analysis"
        checked={step.in_analysis}
        onChange={(on) =>
          tell(onEdit([put(`${path}/in_analysis`, on)], `${on ? "Take in" : "Leave out"} ${step.name}`))
        }
      />
      <Section title="Increments, as shares of the step">
        {SETTINGS.map(({ key, label }) => (
          <Field
            key={key}
            label={label}
            value={String(step.increments[key])}
            onCommit={(text) => onEdit([put(`${path}/increments/${key}`, number(text))], `${label} of ${step.name}`)}
          />
        ))}
        <p className="text-[12.5px] text-quiet">
          An increment that does not converge is halved; easy ones grow. Results of the last are kept always.
        </p>
      </Section>
      <Section title="What is followed">
        <Switch
          label="Large motion"
          checked={step.large_motion ?? false}
          onChange={(on) => tell(onEdit([put(`${path}/large_motion`, on)], `Motion of ${step.name}`))}
        />
        <p className="text-[12.5px] text-quiet">Large turns and strains, and faces that travel along each other.</p>
        <Switch
          label="Inertia"
          checked={step.dynamics != null}
          onChange={(on) =>
            tell(onEdit([put(`${path}/dynamics`, on ? USUAL_DYNAMICS : null)], `Inertia in ${step.name}`))
          }
        />
        {step.dynamics && (
          <>
            <Field
              label="Takes"
              value={step.dynamics.duration}
              onCommit={(text) => onEdit([put(`${path}/dynamics/duration`, text)], `Duration of ${step.name}`)}
            />
            <Field
              label="Damping, 1/s"
              value={String(step.dynamics.damping)}
              onCommit={(text) => onEdit([put(`${path}/dynamics/damping`, number(text))], `Damping in ${step.name}`)}
            />
          </>
        )}
      </Section>
      <div className="flex flex-wrap gap-1.5 py-1">
        {(
          [
            ["Earlier", movedStep(study, step, -1)],
            ["Later", movedStep(study, step, 1)],
          ] as const
        ).map(([label, patch]) => (
          <Button
            key={label}
            disabled={!patch}
            onClick={() => patch && tell(onEdit(patch, `${step.name} ${label.toLowerCase()}`))}
          >
            {label}
          </Button>
        ))}
        <Button
          onClick={() => {
            const { id, patch } = copyOfStep(study, step);
            const select = whenDone();
            tell(onEdit(patch, `Copy ${step.name}`).then(() => select({ kind: "step", id })));
          }}
        >
          Copy the step
        </Button>
      </div>
      {(study.steps ?? []).length > 1 && <TakeOut study={info.id} kind="step" item={step} label="Take the step out" />}
    </>
  );
}

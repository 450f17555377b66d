import type { StudyDocument } from "@/api/client";
import { Section } from "@/ui/Section";
import { tell } from "@/ui/notices";
import { type EditFn, put } from "./edits";

type Props = {
  title: string;
  study: StudyDocument;
  /** Of the item; the steps in which it lets go are kept at its `released`. */
  path: string;
  name: string;
  released: readonly string[];
  onEdit: EditFn;
};

/** In which steps something holds or acts: a step that is not ticked lets it go. */
export function InSteps({ title, study, path, name, released, onEdit }: Props) {
  const steps = study.steps ?? [];
  if (!steps.length) return null;
  const set = (step: string, acts: boolean) => {
    const next = steps.map((s) => s.id).filter((id) => (id === step ? !acts : released.includes(id)));
    tell(onEdit([put(`${path}/released`, next)], `Steps of ${name}`));
  };
  return (
    <Section title={title}>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {steps.map((step) => (
          <label key={step.id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              aria-label={`${title} ${step.name}`}
              checked={!released.includes(step.id)}
              onChange={(e) => set(step.id, e.target.checked)}
            />
            {step.name}
          </label>
        ))}
      </div>
    </Section>
  );
}

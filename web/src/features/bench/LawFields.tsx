import type { PairUse } from "@/api/client";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { tell } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Switch } from "@/ui/Switch";

import { type EditFn, number, put } from "./edits";

const SLIDES = [
  { value: "no", label: "no" },
  { value: "freely", label: "freely" },
  { value: "friction", label: "with µ" },
] as const;
const METHODS = [
  { value: "exact", label: "exact" },
  { value: "augmented", label: "augmented" },
  { value: "penalty", label: "penalty" },
] as const;

type Owner = { name: string; path: string; onEdit: EditFn };

/** What a pair, or all of a contact property, may do. */
export function LawFields({ law, name, path, onEdit }: Owner & { law: PairUse["law"] }) {
  const setLaw = (change: Partial<typeof law>) =>
    // A pair that cannot open has no friction to slide with.
    onEdit(
      Object.entries(normal(law, change)).map(([key, value]) => put(`${path}/law/${key}`, value)),
      `Law of ${name}`,
    );
  return (
    <>
      <Switch label="May open" checked={law.may_open} onChange={(may_open) => tell(setLaw({ may_open }))} />
      <Choice
        label="May slide"
        value={law.may_slide}
        options={law.may_open ? SLIDES : SLIDES.slice(0, 2)}
        onChange={(may_slide) => tell(setLaw({ may_slide }))}
      />
      {law.may_slide === "friction" && (
        <Field
          label="Friction coefficient µ"
          value={String(law.mu)}
          onCommit={(text) => onEdit([put(`${path}/law/mu`, number(text))], `µ of ${name}`)}
        />
      )}
    </>
  );
}

/** How it is enforced that sides do not cross. */
export function EnforcementFields({
  enforcement,
  name,
  path,
  onEdit,
}: Owner & { enforcement: PairUse["enforcement"] }) {
  return (
    <Section title="Enforcement">
      <Choice
        label="Method"
        value={enforcement.method}
        options={METHODS}
        onChange={(method) => tell(onEdit([put(`${path}/enforcement/method`, method)], `Enforcement of ${name}`))}
      />
      {enforcement.method === "augmented" && (
        <Field
          label="Penetration at most"
          value={enforcement.allowed}
          onCommit={(text) => onEdit([put(`${path}/enforcement/allowed`, text)], `Penetration allowed of ${name}`)}
        />
      )}
      {enforcement.method !== "exact" && (
        <Field
          label="Stiffness × E/h"
          value={String(enforcement.stiffness)}
          onCommit={(text) => onEdit([put(`${path}/enforcement/stiffness`, number(text))], `Penalty of ${name}`)}
        />
      )}
    </Section>
  );
}

/** What a change of a law changes with it. */
function normal<T extends { may_open: boolean; may_slide: string }>(law: T, change: Partial<T>): Partial<T> {
  const after = { ...law, ...change };
  return !after.may_open && after.may_slide === "friction" ? { ...change, may_slide: "no" } : change;
}

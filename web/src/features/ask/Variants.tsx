import { useLocation } from "wouter";

import { useRunVariant, useVariants } from "@/api/asking";
import type { StudyInfo } from "@/api/client";
import { type EditFn, replace } from "@/features/bench/edits";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { tell } from "@/ui/notices";

/** The variants of a study: what each changes, or why it does not fit any more; run and taken out. */
export function Variants({ info, onEdit }: { info: StudyInfo; onEdit: EditFn }) {
  const kept = info.document.variants ?? [];
  const told = useVariants(info.id, info.revision, kept.length > 0).data ?? [];
  const run = useRunVariant(info.id);
  const [, go] = useLocation();
  return (
    <Section title="Variants">
      {kept.length === 0 && (
        <p className="text-[12.5px] text-quiet">
          None yet: a sample or a changed study that is worth keeping is kept as one.
        </p>
      )}
      <ul className="space-y-2" aria-label="Variants">
        {kept.map((variant, at) => {
          const known = told.find((t) => t.id === variant.id);
          return (
            <li key={variant.id} className="rounded border border-line bg-paper p-2">
              <Field
                label={`Name of ${variant.name}`}
                hideLabel
                wide
                value={variant.name}
                onCommit={(name) => onEdit([replace(`/variants/${at}/name`, name)], `Variant ${name}`)}
              />
              <Field
                label={`Note on ${variant.name}`}
                hideLabel
                wide
                placeholder="a note"
                value={variant.note ?? ""}
                onCommit={(note) => onEdit([replace(`/variants/${at}/note`, note)], `Note on ${variant.name}`)}
              />
              {known?.misfit ? (
                <p className="text-[12.5px] text-vermilion">Does not fit the study any more: {known.misfit}</p>
              ) : (
                <ul className="text-[12.5px] text-quiet">
                  {known?.changes.map((line) => (
                    <li key={line} className="break-words">
                      {line}
                    </li>
                  ))}
                </ul>
              )}
              <div className="flex gap-1.5 pt-1.5 text-[13px]">
                <Button
                  disabled={!!known?.misfit || run.isPending}
                  onClick={() => run.mutate(variant.id, { onSuccess: () => go(`/studies/${info.id}/run`) })}
                >
                  Run it
                </Button>
                <Button
                  onClick={() =>
                    tell(onEdit([{ op: "remove", path: `/variants/${at}` }], `No variant ${variant.name}`))
                  }
                >
                  Take it out
                </Button>
              </div>
            </li>
          );
        })}
      </ul>
    </Section>
  );
}

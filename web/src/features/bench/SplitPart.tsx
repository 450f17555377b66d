import { useState } from "react";

import type { PartUse, StudyDocument } from "@/api/client";
import { useEdits } from "@/api/hooks";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";

const AXES = ["x", "y", "z"] as const;

/** Splits a part by a plane across one of its own axes into pieces that are tied together. */
export function SplitPart({ id, study, part }: { id: number; study: StudyDocument; part: PartUse }) {
  const { split } = useEdits(id);
  const { select } = useSelection();
  const [axis, setAxis] = useState<(typeof AXES)[number]>("x");
  const [at, setAt] = useState("0 mm");
  if (study.space !== "solid") return null;
  const go = () => split.mutate({ part: part.id, axis, at }, { onSuccess: () => select({ kind: "study", id: "" }) });
  return (
    <Section title="Split: pieces tied where they are cut">
      <Choice
        label="Across its own"
        value={axis}
        options={AXES.map((a) => ({ value: a, label: a }))}
        onChange={setAxis}
      />
      <Field
        label={`at ${axis}`}
        value={at}
        onCommit={(text) => {
          setAt(text);
          return Promise.resolve();
        }}
      />
      <Button className="my-1" disabled={split.isPending} onClick={go}>
        {split.isPending ? "Splitting…" : "Split the part"}
      </Button>
      <p className="text-[12.5px] text-quiet">Pairs, supports and loads stay with the pieces; dimensions do not.</p>
      {split.error && (
        <p role="alert" className="text-[12.5px] text-vermilion">
          {split.error.message}
        </p>
      )}
    </Section>
  );
}

import { useState } from "react";

import type { PartUse } from "@/api/client";
import { useEdits } from "@/api/hooks";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Refusal } from "@/ui/Refusal";
import { Section } from "@/ui/Section";

import { number } from "./edits";
import { AXES } from "./Three";

type Triple = [string, string, string];
const ZERO: Triple = ["0 mm", "0 mm", "0 mm"];

/** Copies of a part in a row or a ring, which begins at the copy that is looked at. */
export function CopyPart({ id, part }: { id: number; part: PartUse }) {
  const { copyPart } = useEdits(id);
  const { selected } = useSelection();
  const [kind, setKind] = useState<"row" | "ring">("row");
  const [count, setCount] = useState("4");
  const [step, setStep] = useState<Triple>(["20 mm", "0 mm", "0 mm"]);
  const [axis, setAxis] = useState<"x" | "y" | "z">("z");
  const [through, setThrough] = useState<Triple>(ZERO);
  const [angle, setAngle] = useState("360 deg");
  const go = () => {
    // What is no number is left for the server to refuse.
    const wanted = number(count) as number;
    copyPart.mutate({
      part: part.id,
      copy_number: Math.min(selected.copy ?? 1, (part.placements ?? []).length),
      pattern: kind === "row" ? { kind, count: wanted, step } : { kind, count: wanted, axis, through, angle },
    });
  };
  const entry = (label: string, value: string, set: (text: string) => void) => (
    <Field
      key={label}
      label={label}
      value={value}
      onCommit={(text) => {
        set(text);
        return Promise.resolve();
      }}
    />
  );
  const three = (label: (axis: string) => string, values: Triple, set: (next: Triple) => void) =>
    AXES.map((a, i) =>
      entry(label(a), values[i] ?? "", (text) => set(values.map((v, k) => (k === i ? text : v)) as Triple)),
    );
  return (
    <Section title="Copies">
      <Choice
        label="In a"
        value={kind}
        options={[
          { value: "row", label: "row" },
          { value: "ring", label: "ring" },
        ]}
        onChange={setKind}
      />
      {entry("With this one", count, setCount)}
      {kind === "row" ? (
        three((a) => `each further by ${a}`, step, setStep)
      ) : (
        <>
          <Choice label="About" value={axis} options={AXES.map((a) => ({ value: a, label: a }))} onChange={setAxis} />
          {three((a) => `axis through ${a}`, through, setThrough)}
          {entry("Over", angle, setAngle)}
        </>
      )}
      <Button className="my-1" disabled={copyPart.isPending} onClick={go}>
        Make the copies
      </Button>
      <Refusal of={copyPart.error} className="text-[12.5px]" />
    </Section>
  );
}

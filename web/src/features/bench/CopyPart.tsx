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

/** Copies of a part in a row, a ring or a mirror image, which begins at the copy that is looked at. */
export function CopyPart({ id, part }: { id: number; part: PartUse }) {
  const { copyPart } = useEdits(id);
  const { selected } = useSelection();
  const [kind, setKind] = useState<"row" | "ring" | "mirror">("row");
  const [count, setCount] = useState("4");
  const [step, setStep] = useState<Triple>(["20 mm", "0 mm", "0 mm"]);
  const [axis, setAxis] = useState<"x" | "y" | "z">("z");
  const [through, setThrough] = useState<Triple>(ZERO);
  const [angle, setAngle] = useState("360 deg");
  const [across, setAcross] = useState<"x" | "y" | "z">("x");
  const [plane, setPlane] = useState("0 mm");
  const go = () => {
    // What is no number is left for the server to refuse.
    const wanted = number(count) as number;
    copyPart.mutate({
      part: part.id,
      copy_number: Math.min(selected.copy ?? 1, (part.placements ?? []).length),
      pattern: {
        row: { kind: "row" as const, count: wanted, step },
        ring: { kind: "ring" as const, count: wanted, axis, through, angle },
        mirror: { kind: "mirror" as const, axis: across, at: plane },
      }[kind],
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
        label="As a"
        value={kind}
        options={[
          { value: "row", label: "row" },
          { value: "ring", label: "ring" },
          { value: "mirror", label: "mirror image" },
        ]}
        onChange={setKind}
      />
      {kind !== "mirror" && entry("With this one", count, setCount)}
      {kind === "row" && three((a) => `each further by ${a}`, step, setStep)}
      {kind === "mirror" && (
        <>
          <Choice
            label="Across"
            value={across}
            options={AXES.map((a) => ({ value: a, label: a }))}
            onChange={setAcross}
          />
          {entry(`plane at ${across}`, plane, setPlane)}
        </>
      )}
      {kind === "ring" && (
        <>
          <Choice label="About" value={axis} options={AXES.map((a) => ({ value: a, label: a }))} onChange={setAxis} />
          {three((a) => `axis through ${a}`, through, setThrough)}
          {entry("Over", angle, setAngle)}
        </>
      )}
      <Button className="my-1" disabled={copyPart.isPending} onClick={go}>
        {kind === "mirror" ? "Make the mirror image" : "Make the copies"}
      </Button>
      <Refusal of={copyPart.error} className="text-[12.5px]" />
    </Section>
  );
}

import { useState } from "react";

import type { PartUse, StudyDocument } from "@/api/client";
import { useEdits, useFaceInfo } from "@/api/hooks";
import { useSelection, whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { useNotices } from "@/ui/notices";
import { Refusal } from "@/ui/Refusal";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { number } from "./edits";
import { AXES } from "./Three";

const BY_FACE = "face";
const UNITS: Record<string, [string, string, string]> = { x: ["1", "0", "0"], y: ["0", "1", "0"], z: ["0", "0", "1"] };

/** What can be left of a cut: both sides, or one, and what holds the faces that it makes. */
const LEFT = [
  { value: "both tied", label: "both sides, tied" },
  { value: "both touching", label: "both sides, touching" },
  { value: "ahead symmetry", label: "what lies ahead, with symmetry" },
  { value: "behind symmetry", label: "what lies behind, with symmetry" },
  { value: "ahead free", label: "what lies ahead, cut left free" },
  { value: "behind free", label: "what lies behind, cut left free" },
] as const;
type Left = (typeof LEFT)[number]["value"];

/** Cuts a part, or all of them, by any plane. */
export function CutParts({ id, study, part }: { id: number; study: StudyDocument; part?: PartUse }) {
  const { cut, undo } = useEdits(id);
  const { selected } = useSelection();
  const { add } = useNotices();
  const face = useFaceInfo(id);
  const [axes, setAxes] = useState<"own" | "study">(part ? "own" : "study");
  const [across, setAcross] = useState<string>("x");
  const [normal, setNormal] = useState(UNITS.x ?? ["1", "0", "0"]);
  const [at, setAt] = useState("0 mm");
  const [left, setLeft] = useState<Left>(part ? "both tied" : "ahead symmetry");
  if (study.space !== "solid") return null;
  const picked =
    part && selected.face ? `${part.id}${selected.copy ? `#${selected.copy}` : ""}/${selected.face}` : undefined;
  const choose = (next: string) => {
    setAcross(next);
    const unit = UNITS[next];
    if (unit) setNormal(unit);
    if (next !== BY_FACE || !picked) return;
    setAxes("study");
    face.mutate(picked, {
      onSuccess: ({ at: point, direction }) => {
        const along = point.reduce((sum, c, i) => sum + c * (direction[i] ?? 0), 0);
        setNormal(direction.map((c) => String(Number(c.toFixed(9)))));
        setAt(`${Number(along.toFixed(6))} mm`);
      },
    });
  };
  const go = () => {
    const [keep, leaves] = left.split(" ") as ["both" | "ahead" | "behind", "tied" | "touching" | "symmetry" | "free"];
    const select = whenDone();
    cut.mutate(
      // What is no number is left for the server to refuse.
      { parts: part ? [part.id] : [], axes, normal: normal.map(number) as [number, number, number], at, keep, leaves },
      {
        onSuccess: ({ told }) => {
          select({ kind: "study", id: "" });
          add({
            tone: "good",
            text: `${part ? part.name : "Everything"} is cut. ${told}`.trim(),
            undo: () => undo.mutate(),
          });
        },
      },
    );
  };
  const later = (set: (text: string) => void) => (text: string) => {
    set(text);
    return Promise.resolve();
  };
  return (
    <Section title={part ? "Cut by a plane" : "Cut everything by a plane"}>
      {part && (
        <Choice
          label="In axes of"
          value={axes}
          options={[
            { value: "own", label: "the part" },
            { value: "study", label: "the study" },
          ]}
          onChange={setAxes}
        />
      )}
      <Select
        label="Across"
        value={across}
        options={[
          ...AXES.map((a) => ({ value: a, label: a })),
          { value: "any", label: "any direction" },
          ...(picked ? [{ value: BY_FACE, label: "through the picked face" }] : []),
        ]}
        onChange={choose}
      />
      {across === "any" &&
        AXES.map((a, i) => (
          <Field
            key={a}
            label={`normal ${a}`}
            value={normal[i] ?? "0"}
            onCommit={later((text) => setNormal(normal.map((v, k) => (k === i ? text : v))))}
          />
        ))}
      <Field label={UNITS[across] ? `at ${across}` : "along it from the origin"} value={at} onCommit={later(setAt)} />
      <Select label="Leaves" value={left} options={[...LEFT]} onChange={(value) => setLeft(value as Left)} />
      <Button className="my-1" disabled={cut.isPending} onClick={go}>
        {cut.isPending ? "Cutting…" : part ? "Cut the part" : "Cut all parts"}
      </Button>
      {left.startsWith("both") && (
        <p className="text-[12.5px] text-quiet">Pairs, supports and loads stay with the pieces; dimensions do not.</p>
      )}
      <Refusal of={cut.error ?? face.error} className="text-[12.5px]" />
    </Section>
  );
}

import { useState } from "react";

import type { Measured, StudyInfo } from "@/api/client";
import { useReckoned } from "@/api/hooks";
import { length, standsFor } from "@/api/units";
import { Reckonings } from "@/features/Reckonings";
import { useSelection } from "@/features/selection";
import type { StageLabel } from "@/scene/Stage";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";
import { Refusal } from "@/ui/Refusal";
import { Row } from "@/ui/Section";

type Props = {
  info: StudyInfo;
  found: Measured | undefined;
  isPending: boolean;
  problem: Error | null;
};

/** Figures of one picked face, or between two, on exact geometry, and what formulas say of them. */
export function MeasurePanel({ info, found, isPending, problem }: Props) {
  const { measured, measure } = useSelection();
  if (!measured) return null;
  return (
    <section
      aria-label="Measure"
      className="absolute top-9 left-4 z-10 max-h-[calc(100%-3rem)] w-[300px] overflow-y-auto rounded-md border border-line bg-paper px-3 py-2 shadow-lg"
    >
      <header className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold tracking-wide text-quiet">Measure</h2>
        <button
          type="button"
          aria-label="Stop measuring"
          className="text-quiet hover:text-ink"
          onClick={() => measure(undefined)}
        >
          ×
        </button>
      </header>
      {measured.length < 2 && (
        <p className="text-quiet">
          {measured.length ? "Pick a second face to measure between." : "Pick a face, or two."}
        </p>
      )}
      {measured.map((face) => (
        <p key={face} className="truncate font-semibold">
          {face}
        </p>
      ))}
      {isPending && measured.length > 0 && <p className="text-quiet">Measuring…</p>}
      {problem && (
        <p role="alert" className="text-vermilion">
          {problem.message}
        </p>
      )}
      {!isPending &&
        found?.figures.map((f) => (
          <Row key={f.label} label={f.label}>
            {figure(f.value * standsFor(f.unit).factor, 5)} {standsFor(f.unit).unit}
          </Row>
        ))}
      {measured.length > 0 && <ByHand info={info} faces={measured} />}
    </section>
  );
}

/** Formulas for picked faces under a force that is asked. */
function ByHand({ info, faces }: { info: StudyInfo; faces: string[] }) {
  const [force, setForce] = useState("1 kN");
  const [mu, setMu] = useState("0.15");
  const found = useReckoned(info.id, info.revision, faces, force, Number(mu));
  const entry = (set: (value: string) => void) => (value: string) => Promise.resolve(set(value));
  return (
    <div aria-label="By hand" role="group" className="mt-1 border-t border-line pt-1">
      <h3 className="text-[12px] font-semibold tracking-wide text-quiet">By hand</h3>
      <Field label="Force" value={force} onCommit={entry(setForce)} />
      <Field label="Friction coefficient µ" value={mu} onCommit={entry(setMu)} />
      <Refusal of={found.error} />
      {found.data && <Reckonings checks={found.data} beside="at this force" />}
      {found.data?.length === 0 && (
        <p className="text-quiet">
          {faces.length < 2
            ? "No formula knows this face alone. Pick a second one."
            : "No formula knows these two. Take round faces or balls that touch, a hole and what is in it, flat faces that face each other, or both ends of a bar."}
        </p>
      )}
    </div>
  );
}

/** The two closest points of what is measured, each end marked. */
export function measureLabels(found: Measured | undefined): StageLabel[] {
  if (!found?.between) return [];
  const [a, b] = found.between;
  const gap = Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
  return [
    { id: "measured-a", at: a, text: "", tone: "hold" },
    { id: "measured-b", at: b, text: length(gap, 5), tone: "load" },
  ];
}

import type { StudyDocument } from "@/api/client";
import { type Pairing, useSelection, whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Refusal } from "@/ui/Refusal";
import { useState } from "react";

import { type EditFn, freeId, freeName } from "./edits";

const SIDES = ["a", "b"] as const;

/** A pair made by hand: picked faces go to the side that is chosen, covered ones by a press of the right button. */
export function PairingBar({ study, onEdit }: { study: StudyDocument; onEdit: EditFn }) {
  const { pairing, pair } = useSelection();
  const [problem, setProblem] = useState<Error | null>(null);
  if (!pairing) return null;
  const set = (to: Partial<Pairing>) => pair({ ...pairing, ...to });
  const make = () => {
    const select = whenDone();
    setProblem(null);
    const parts = (side: string[]) => [...new Set(side.map((f) => f.split("/")[0]?.split("#")[0] ?? f))];
    const [one, other] = [parts(pairing.a), parts(pairing.b)];
    const nameOf = (ids: string[]) => ids.map((id) => study.parts?.find((p) => p.id === id)?.name ?? id).join(", ");
    const id = freeId(`${one[0]}-${other[0]}`.slice(0, 40), study.pairs);
    const name = freeName(`${nameOf(one)} – ${nameOf(other)}`.slice(0, 60), pairing.a[0] ?? "", study.pairs);
    const value = { id, name, a: pairing.a, b: pairing.b };
    onEdit([{ op: "add", path: "/pairs/-", value }], `Pair ${name}`).then(
      () => {
        pair(undefined);
        select({ kind: "pair", id });
      },
      (error: Error) => setProblem(error),
    );
  };
  return (
    <div
      role="group"
      aria-label="Pair by hand"
      className="absolute inset-x-0 top-10 mx-auto w-fit max-w-[90%] rounded-md border border-verdigris bg-paper px-3 py-1.5 shadow"
    >
      {SIDES.map((side) => (
        <div key={side} className="flex flex-wrap items-center gap-2 py-0.5">
          <button
            type="button"
            aria-pressed={pairing.side === side}
            onClick={() => set({ side })}
            className="rounded-full border border-line px-2.5 py-0.5 aria-pressed:border-verdigris aria-pressed:bg-verdigris-pale aria-pressed:font-semibold"
          >
            Side {side.toUpperCase()}
          </button>
          {pairing[side].map((face) => (
            <button
              key={face}
              type="button"
              title="Take it away"
              onClick={() => set({ [side]: pairing[side].filter((f) => f !== face) })}
              className="hover:text-vermilion hover:line-through"
            >
              {face}
            </button>
          ))}
          {!pairing[side].length && <span className="text-quiet">pick faces on the stage</span>}
        </div>
      ))}
      <p className="text-[12.5px] text-quiet">
        The right button lists what is under the pointer. A carries the check: take the finer or smaller side for it.
      </p>
      <div className="flex items-center justify-end gap-2 pt-1">
        <Refusal of={problem} className="mr-auto" />
        <Button onClick={() => pair(undefined)}>Leave it</Button>
        <Button tone="main" disabled={!pairing.a.length || !pairing.b.length} onClick={make}>
          Make the pair
        </Button>
      </div>
    </div>
  );
}

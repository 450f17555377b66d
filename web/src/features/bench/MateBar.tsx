import type { Manner } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Choice } from "@/ui/Choice";

const MANNERS: { value: Manner; label: string }[] = [
  { value: "flush", label: "flush or coaxial" },
  { value: "tangent", label: "touching" },
  { value: "in-mesh", label: "teeth in mesh" },
];
const WORDS: Record<Manner, string> = {
  flush: "Flat to flat comes flush, round to round coaxial.",
  tangent: "A round face comes to touch a flat or a round one.",
  "in-mesh": "Gears come to the distance at which they mesh: pick any face of the other.",
};

/** Says which face waits to be mated, how, and why it cannot be where it cannot. */
export function MateBar({
  manner,
  setManner,
  problem,
}: {
  manner: Manner;
  setManner: (m: Manner) => void;
  problem: Error | null;
}) {
  const { mating, mate } = useSelection();
  if (!mating) return null;
  return (
    <div
      role="status"
      className="absolute inset-x-0 top-10 mx-auto w-fit rounded-md border border-verdigris bg-paper px-3 py-1.5 shadow"
    >
      <div className="flex items-center gap-3">
        <span>
          Pick the face that <b>{mating}</b> goes to.
        </span>
        <button type="button" className="ml-auto text-verdigris underline" onClick={() => mate(undefined)}>
          Leave it
        </button>
      </div>
      <Choice label="Come" value={manner} options={MANNERS} onChange={setManner} />
      <p className="text-[12.5px] text-quiet">{WORDS[manner]}</p>
      {problem && (
        <p role="alert" className="max-w-[420px] text-vermilion">
          {problem.message}
        </p>
      )}
    </div>
  );
}

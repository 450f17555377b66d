import { Legend } from "@/features/review/Legend";
import { Choice } from "@/ui/Choice";
import { Refusal } from "@/ui/Refusal";

import { type gapLook, gapText } from "./gapLook";

type Props = {
  gap: ReturnType<typeof gapLook>;
  problem: Error | null;
  isCounted: boolean;
  onCount: (isCounted: boolean) => void;
};

/** The gap of a pair at the start in words, with its colours, as drawn or as its fit counts it. */
export function GapBar({ gap, problem, isCounted, onCount }: Props) {
  return (
    <>
      <div className="absolute top-9 left-4 w-72 rounded border border-line bg-paper/95 px-3 py-1 shadow-sm">
        <Choice
          label="Gap at the start"
          value={isCounted ? "counted" : "drawn"}
          options={[
            { value: "drawn", label: "as drawn" },
            { value: "counted", label: "as counted" },
          ]}
          onChange={(value) => onCount(value === "counted")}
        />
        {gap && (
          <p role="status" className="pb-1 font-semibold">
            {gap.low === gap.high ? `${gapText(gap.low)} everywhere` : `${gapText(gap.low)} to ${gapText(gap.high)}`}
          </p>
        )}
        <Refusal of={problem} />
      </div>
      {gap && <Legend low={gap.limits.low} high={gap.limits.high} unit="mm" signed={gap.limits.signed} />}
    </>
  );
}

import type { HotSpot, StudyDocument } from "@/api/client";
import type { FieldInfo } from "@/api/vocabulary";
import { length } from "@/api/units";
import type { Vec } from "@/scene/drawSigns";
import { bodyName } from "@/features/items";
import { Section } from "@/ui/Section";

import { spokenValue } from "./readings";

type Props = { study: StudyDocument; spots: HotSpot[] | undefined; meaning: FieldInfo; onGo: (to: Vec) => void };

/** Separate places where the field is highest; a press goes there. */
export function HotSpots({ study, spots, meaning, onGo }: Props) {
  if (!spots) return null;
  return (
    <Section title="Highest places">
      {spots.length === 0 && <p className="text-quiet">Nothing here is larger than rounding.</p>}
      <ol aria-label="Highest places">
        {spots.map((spot) => {
          return (
            <li key={`${spot.body}${spot.at.join()}`}>
              <button
                type="button"
                className="w-full rounded px-1 py-0.5 text-left hover:bg-verdigris-pale"
                title={`at ${spot.at.map((c) => length(c)).join(", ")}`}
                onClick={() => onGo(spot.at as Vec)}
              >
                <span className="flex items-baseline justify-between gap-2">
                  <span className="truncate">{bodyName(study, spot.body)}</span>
                  <span className="shrink-0">
                    <b>{spokenValue(spot.value * meaning.factor, meaning.spoken)}</b>
                    {spot.spread != null && spot.spread > 0.02 * Math.abs(spot.value) && (
                      <span className="text-quiet" title="So far do the elements about it disagree">
                        {" "}
                        ± {spokenValue(spot.spread, "MPa")}
                      </span>
                    )}
                  </span>
                </span>
                {spot.singular && (
                  <span
                    className="block text-[12px] leading-tight text-copper"
                    title="It grows with every finer mesh, and is not judged unless that is asked for"
                  >
                    singular: {spot.singular}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ol>
    </Section>
  );
}

import type { UseQueryResult } from "@tanstack/react-query";
import { useState } from "react";

import { ApiProblem, type PathValues, type StudyDocument } from "@/api/client";
import { length, spoken } from "@/api/units";
import type { FieldInfo } from "@/api/vocabulary";
import { bodyName, faceName } from "@/features/items";
import { pointText, readPoint } from "@/features/point";
import type { Vec } from "@/scene/drawSigns";
import { COLOURS } from "@/ui/colours";
import { CurvePlot } from "@/ui/CurvePlot";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";

import { asCsv, saveText } from "./quantities";
import { inSpoken, spokenValue } from "./readings";
import type { PathEnds } from "./useInside";

type Props = {
  study: StudyDocument;
  ends: Vec[];
  onEnds: (ends: Vec[]) => void;
  /** Whether the next place on the stage is a further corner. */
  goesOn: boolean;
  onGoesOn: (goesOn: boolean) => void;
  /** Whether it runs along the edge nearest to its one end. */
  isEdge: boolean;
  onEdge: (isEdge: boolean) => void;
  onClose: () => void;
  /** The inward normal at the first end, where it was picked on a face. */
  inward: Vec | undefined;
  found: UseQueryResult<PathValues>;
  meaning: FieldInfo;
};

/** A path through the parts: its ends, and the field along it as a plot and as a table. */
export function PathPanel({
  study,
  ends,
  onEnds,
  goesOn,
  onGoesOn,
  isEdge,
  onEdge,
  onClose,
  inward,
  found,
  meaning,
}: Props) {
  const [at, setAt] = useState<number>();
  const values = found.data;
  const { unit, factor } = inSpoken(meaning);
  const mm = spoken("length");
  const x = (values?.distance ?? []).map((d) => d * mm.factor);
  const y = (values?.value ?? []).map((v) => (v === null ? null : v * factor));
  const byHand = values?.by_hand?.values.map((v) => (v === null ? null : v * factor));
  const known = y.filter((v): v is number => v !== null);
  const index = at !== undefined && at < y.length ? at : known.length ? y.indexOf(Math.max(...known)) : undefined;
  const here = index !== undefined && values ? values.value[index] : undefined;
  const isWhole = ends.length > 1 || (isEdge && ends.length === 1);
  return (
    <Section title="Path">
      <div role="group" aria-label="Path">
        {ends.length === 0 && (
          <p className="py-1">Click {isEdge ? "beside the edge" : "where it begins"} on the stage.</p>
        )}
        {isEdge && values && ends.length === 1 && (
          <p className="py-1" data-testid="edge">
            Along the edge of {(values.edge ?? []).map((f) => faceName(study, f)).join(" and ")}.
          </p>
        )}
        {!isEdge && ends.length === 1 && (
          <p className="py-1">
            Click where it ends, or{" "}
            {inward && (
              <button
                type="button"
                className="text-verdigris hover:underline"
                onClick={() => onEnds([ends[0]!, deeper(ends[0]!, inward)])}
              >
                go straight into the part
              </button>
            )}{" "}
            <button type="button" className="text-verdigris hover:underline" onClick={() => onEdge(true)}>
              along the nearest edge
            </button>
          </p>
        )}
        {ends.map((end, i) => (
          <Field
            key={i}
            wide
            label={`${isEdge ? "edge near" : i === 0 ? "from" : i === 1 ? "to" : `then ${i}`} (${mm.unit})`}
            value={pointText(end)}
            onCommit={(text) => readPoint(text).then((at) => onEnds(ends.map((e, k) => (k === i ? at : e))))}
          />
        ))}
        {found.error && (
          <p role="alert" className="text-vermilion">
            {found.error.message} {found.error instanceof ApiProblem && found.error.hint}
          </p>
        )}
        {isWhole && values && known.length === 0 && <p>There is no material along this path.</p>}
        {isWhole && known.length > 0 && (
          <>
            <div className="h-44">
              <CurvePlot
                label={`${meaning.label} along the path`}
                xLabel={`distance (${mm.unit})`}
                lines={[
                  { label: meaning.label, unit, x, y, colour: COLOURS.verdigris },
                  ...(byHand ? [{ label: "by hand", unit, x, y: byHand, colour: COLOURS.copper, isFaint: true }] : []),
                ]}
                at={index}
                onAt={setAt}
              />
            </div>
            {values?.by_hand && (
              <p className="text-[12.5px] text-quiet" data-testid="by-hand">
                <span style={{ color: COLOURS.copper }}>by hand</span>: {values.by_hand.name}
                {!values.by_hand.holds && ", but not all that it rests on is met"}
              </p>
            )}
            {here != null && index !== undefined && values && (
              <p className="text-[13px]" data-testid="on-path">
                {spokenValue(here * meaning.factor, meaning.spoken)} at {length(values.distance[index] ?? 0)} ·{" "}
                {bodyName(study, values.part[index] ?? "")} · element {length(values.size[index] ?? 0, 2)}
              </p>
            )}
          </>
        )}
        <p className="flex gap-4 pt-1">
          {isWhole && known.length > 0 && (
            <button
              type="button"
              // Until the new path is there, what stands is that of the one before.
              disabled={found.isPlaceholderData}
              className="text-verdigris hover:underline"
              onClick={() =>
                saveText(
                  "path.csv",
                  asCsv([
                    { key: "d", label: "distance", unit: mm.unit, values: x },
                    { key: "v", label: meaning.label, unit, values: y.map((v) => v ?? NaN) },
                    ...(byHand ? [{ key: "h", label: "by hand", unit, values: byHand.map((v) => v ?? NaN) }] : []),
                  ]),
                )
              }
            >
              Save as CSV
            </button>
          )}
          {isWhole && !isEdge && (
            <button
              type="button"
              aria-pressed={goesOn}
              title="The next place on the stage is a further corner of the path"
              className={goesOn ? "font-semibold text-verdigris" : "text-verdigris hover:underline"}
              onClick={() => onGoesOn(!goesOn)}
            >
              Go on
            </button>
          )}
          <button
            type="button"
            className="text-verdigris hover:underline"
            onClick={() => {
              onEnds([]);
              onGoesOn(false);
              onEdge(false);
            }}
          >
            Anew
          </button>
          <button type="button" className="text-verdigris hover:underline" onClick={onClose}>
            Take away
          </button>
        </p>
      </div>
    </Section>
  );
}

/** So far a path goes into a part at first (mm). */
const DEPTH = 20;
const deeper = (from: Vec, inward: Vec): Vec => from.map((c, k) => c + DEPTH * (inward[k] ?? 0)) as Vec;

/** What is asked for: nothing until there are two ends, or one beside an edge. */
export const asEnds = (ends: Vec[], isEdge: boolean): PathEnds | undefined =>
  ends.length > 1 || (isEdge && ends.length === 1) ? ends : undefined;

import { useState } from "react";

import type { InputInfo, InputUse, SeriesUse, Spread, StudyDocument } from "@/api/client";
import { freeId, number } from "@/features/bench/edits";
import { COLOURS } from "@/ui/colours";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { hasWords } from "@/ui/useFilter";

import { type Entry, entriesOf, servedOf } from "./entries";

const KINDS: { value: Spread["kind"]; label: string }[] = [
  { value: "even", label: "anything between" },
  { value: "normal", label: "mostly in the middle" },
  { value: "triangular", label: "most likely at" },
  { value: "listed", label: "one of" },
];
/** Entries that are offered at once. */
const OFFERED = 8;

type Props = {
  study: StudyDocument;
  series: SeriesUse;
  /** What the server makes of the inputs, in their order. */
  known: InputInfo[];
  onChange: (inputs: InputUse[], label: string) => Promise<unknown>;
};

/** The inputs of a series: what each is, how it scatters, and where another is found. */
export function Inputs({ study, series, known, onChange }: Props) {
  const set = (id: string, next: InputUse) =>
    onChange(
      series.inputs.map((i) => (i.id === id ? next : i)),
      `Scatter of ${next.name}`,
    );
  return (
    <>
      {series.inputs.map((input) => (
        <InputCard
          key={input.id}
          study={study}
          taken={series.inputs.flatMap((i) => i.paths)}
          hasSteps={series.plan === "grid" || series.plan === "one-at-a-time"}
          input={input}
          known={known.find((k) => k.id === input.id)}
          onChange={(next) => set(input.id, next)}
          onDrop={
            series.inputs.length > 1
              ? () =>
                  tell(
                    onChange(
                      series.inputs.filter((i) => i.id !== input.id),
                      `${input.name} is not varied`,
                    ),
                  )
              : undefined
          }
        />
      ))}
      <EntryPicker
        study={study}
        taken={series.inputs.flatMap((i) => i.paths)}
        onPick={(entry) => tell(onChange([...series.inputs, inputOf(entry, series.inputs)], `Vary ${entry.text}`))}
      />
    </>
  );
}

/** An entry as an input that scatters by a tenth. */
export function inputOf(entry: Entry, others: InputUse[]): InputUse {
  const spread: Spread = Number.parseFloat(String(entry.value))
    ? { kind: "even", low: "90 %", high: "110 %", count: 5 }
    : { kind: "even", low: 0, high: 1, count: 5 };
  return { id: freeId("input", others), name: entry.text.slice(0, 80), paths: [entry.path], spread };
}

type CardProps = {
  study: StudyDocument;
  /** Entries that are varied already, here or elsewhere. */
  taken: string[];
  /** Whether the plan goes through an input in steps. */
  hasSteps: boolean;
  input: InputUse;
  known: InputInfo | undefined;
  onChange: (next: InputUse) => Promise<unknown>;
  onDrop: (() => void) | undefined;
};

function InputCard({ study, taken, hasSteps, input, known, onChange, onDrop }: CardProps) {
  const { spread } = input;
  const [showsMore, setShowsMore] = useState(false);
  const label = (what: string) => `${input.name}, ${what}`;
  const end = (which: "low" | "high" | "peak", what: string) =>
    spread.kind !== "listed" &&
    which in spread && (
      <Field
        label={label(what)}
        hideLabel
        narrow
        value={String((spread as Record<string, unknown>)[which])}
        onCommit={(text) => onChange({ ...input, spread: { ...spread, [which]: number(text) } })}
      />
    );
  return (
    <section className="border-b border-line pb-2" aria-label={input.name}>
      <div className="flex items-start justify-between gap-2 pt-2">
        <b className="min-w-0 text-[13.5px] leading-5 font-semibold break-words" title={input.paths.join("\n")}>
          {input.name}
        </b>
        {onDrop && (
          <button
            type="button"
            aria-label={label("no longer varied")}
            title="Vary it no longer"
            onClick={onDrop}
            className="px-1 text-quiet hover:text-vermilion"
          >
            ✕
          </button>
        )}
      </div>
      <div className="flex items-center justify-between gap-2">
        <Select
          label={label("how it scatters")}
          hideLabel
          value={spread.kind}
          options={KINDS}
          onChange={(kind) => tell(onChange({ ...input, spread: asKind(spread, kind as Spread["kind"], known) }))}
        />
        <SpreadSketch spread={spread} />
      </div>
      {spread.kind === "listed" ? (
        <Field
          label={label("values")}
          hideLabel
          wide
          value={spread.values.join("; ")}
          onCommit={(text) =>
            onChange({ ...input, spread: { kind: "listed", values: text.split(";").map((v) => number(v.trim())) } })
          }
        />
      ) : (
        <div className="flex items-center gap-1.5">
          {end("low", "lowest")}
          {spread.kind === "triangular" ? end("peak", "most likely") : <span className="text-quiet">to</span>}
          {end("high", "highest")}
        </div>
      )}
      {known && spread.kind !== "listed" && (
        <p className="text-[12.5px] text-quiet">
          {figure(known.ends[0])} to {figure(known.ends[1])} {known.unit}
          {spread.kind === "normal" && " in 95 of 100"} · now {figure(known.now)} {known.unit}
        </p>
      )}
      {hasSteps && spread.kind !== "listed" && (
        <Field
          label={label("in so many steps")}
          value={String(spread.count)}
          onCommit={(text) => onChange({ ...input, spread: { ...spread, count: Number(text) } })}
        />
      )}
      <button
        type="button"
        aria-expanded={showsMore}
        aria-label={label("more")}
        className="text-[12.5px] text-verdigris hover:underline"
        onClick={() => setShowsMore(!showsMore)}
      >
        {input.paths.length > 1 ? `${input.paths.length} entries alike` : "more"}
      </button>
      {showsMore && (
        <div className="rounded bg-paper px-2 py-1">
          <Field
            label={label("called")}
            hideLabel
            wide
            value={input.name}
            onCommit={(name) => onChange({ ...input, name })}
          />
          <ul className="text-[12.5px] text-quiet">
            {input.paths.map((path) => (
              <li key={path} className="flex justify-between gap-2 break-all">
                {path.slice(1)}
                {input.paths.length > 1 && (
                  <button
                    type="button"
                    aria-label={`Without ${path.slice(1)}`}
                    onClick={() => tell(onChange({ ...input, paths: input.paths.filter((p) => p !== path) }))}
                    className="hover:text-vermilion"
                  >
                    ✕
                  </button>
                )}
              </li>
            ))}
          </ul>
          <EntryPicker
            label={label("together with")}
            hint="Together with another…"
            study={study}
            taken={taken}
            onPick={(entry) => tell(onChange({ ...input, paths: [...input.paths, entry.path] }))}
          />
        </div>
      )}
    </section>
  );
}

/** The same input scattering in another manner. */
function asKind(spread: Spread, kind: Spread["kind"], known: InputInfo | undefined): Spread {
  const now = known ? `${known.now} ${known.unit}`.trim() : "100 %";
  if (kind === "listed") {
    const values = spread.kind === "listed" ? spread.values : [spread.low, spread.high];
    return { kind, values: values.map((v) => (typeof v === "string" ? number(v) : v)) };
  }
  const [low, high] = spread.kind === "listed" ? ["90 %", "110 %"] : [spread.low, spread.high];
  const count = spread.kind === "listed" ? 5 : (spread.count ?? 5);
  if (kind !== "triangular") return { kind, low, high, count };
  return { kind, low, peak: typeof low === "string" && low.includes("%") ? "100 %" : number(now), high, count };
}

/** How often each value comes, as a small picture. */
function SpreadSketch({ spread }: { spread: Spread }) {
  const shapes: Record<Spread["kind"], string> = {
    even: "M2 18 V5 H62 V18",
    normal: "M2 18 C18 18 22 4 32 4 C42 4 46 18 62 18",
    triangular: "M2 18 L40 4 L62 18",
    listed: "M8 18 V6 M24 18 V6 M40 18 V6 M56 18 V6",
  };
  return (
    <svg width="64" height="20" aria-hidden>
      <path
        d={shapes[spread.kind]}
        fill={spread.kind === "listed" ? "none" : COLOURS.copperPale}
        stroke={COLOURS.copper}
        strokeWidth="1.3"
      />
    </svg>
  );
}

type PickerProps = {
  label?: string;
  hint?: string;
  /** Whether nothing is varied yet: what is mostly not known is offered. */
  isFirst?: boolean;
  study: StudyDocument;
  taken: string[];
  onPick: (entry: Entry) => void;
};

/** Finds an entry of the study by its words. */
export function EntryPicker({
  label = "Vary another entry",
  hint = "Vary another: preload, mu, diameter…",
  isFirst = false,
  study,
  taken,
  onPick,
}: PickerProps) {
  const [sought, setSought] = useState("");
  const all = (isFirst && !sought.trim() ? servedOf : entriesOf)(study).filter((e) => !taken.includes(e.path));
  const isShown = isFirst || sought.trim() !== "";
  const found = sought.trim() ? all.filter((e) => hasWords(`${e.text} ${e.path}`, sought)) : all;
  return (
    <div className="py-2">
      <input
        type="search"
        aria-label={label}
        placeholder={hint}
        value={sought}
        onChange={(e) => setSought(e.target.value)}
        className="w-full rounded border border-line bg-white px-2 py-1"
      />
      {isShown && (
        <ul aria-label="Entries found" className="mt-1 rounded border border-line bg-white">
          {found.slice(0, OFFERED).map((entry) => (
            <li key={entry.path}>
              <button
                type="button"
                onClick={() => {
                  setSought("");
                  onPick(entry);
                }}
                className="flex w-full items-baseline justify-between gap-2 px-2 py-1 text-left hover:bg-verdigris-pale"
              >
                <span className="min-w-0 break-words">{entry.text}</span>
                <span className="shrink-0 text-quiet">{entry.value}</span>
              </button>
            </li>
          ))}
          {(found.length === 0 || found.length > OFFERED) && (
            <li className="px-2 py-1 text-[12.5px] text-quiet">
              {found.length === 0
                ? "Nothing in the study is called that and has a number."
                : `and ${found.length - OFFERED} more: say more of it`}
            </li>
          )}
        </ul>
      )}
    </div>
  );
}

import { useEffect, useRef, useState } from "react";

import { useKeepRun } from "@/api/asking";
import type { RunInfo, StudyInfo } from "@/api/client";
import { isActive, useRunDocument } from "@/api/hooks";
import { type Entry, servedOf } from "@/features/ask/entries";
import { number } from "@/features/bench/edits";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";

import type { Asked } from "./useWhatIf";

const STEPS = 40;
/** Milliseconds after the last key before what it led to is asked. */
const KEYS_REST = 250;

type Props = { info: StudyInfo; base: RunInfo; asked: Asked };

/** Inputs of a run that are moved, and answered with the factors that are kept. */
export function WhatIf({ info, base, asked }: Props) {
  const [isOpen, setOpen] = useState(false);
  const document = useRunDocument(base.id).data?.document;
  const keep = useKeepRun(info.id);
  if (!isOpen || !document)
    return (
      <p className="px-4 pt-1">
        <button type="button" className="text-verdigris hover:underline" onClick={() => setOpen(true)}>
          What if…
        </button>
      </p>
    );
  const entries = servedOf(document);
  const { pending, answer, values } = asked;
  const set = (path: string, value: number | string | undefined) => {
    const { [path]: _, ...others } = values;
    asked.ask(value === undefined ? others : { ...others, [path]: value });
  };
  const isBusy = pending !== undefined && isActive(pending.status);
  const failed = pending && !isBusy && pending.status !== "solved" ? `${pending.message} ${pending.hint}` : "";
  return (
    <section aria-label="What if" className="mx-3 mt-1 rounded-md border border-copper-mid bg-paper px-3 py-2">
      <header className="flex items-baseline justify-between">
        <h3 className="font-semibold">What if</h3>
        <span
          className="text-[12.5px] text-quiet"
          data-testid="what-if"
          data-answer={answer?.id ?? ""}
          data-status={isBusy ? "asked" : failed ? "failed" : answer ? "answered" : ""}
        >
          {isBusy ? "is being answered…" : answer ? "answered; “was” is the run" : "move something"}
        </span>
        <button
          type="button"
          aria-label="Close what if"
          className="px-1 text-quiet hover:text-ink"
          onClick={() => {
            asked.clear();
            setOpen(false);
          }}
        >
          ✕
        </button>
      </header>
      {entries.map((entry) => (
        <Knob
          key={entry.path}
          entry={entry}
          value={values[entry.path] ?? entry.value}
          isOther={values[entry.path] !== undefined}
          onSet={(value) => set(entry.path, value)}
        />
      ))}
      {failed && (
        <p role="alert" className="text-[12.5px] text-vermilion">
          {failed}
        </p>
      )}
      {answer && (
        <div className="flex gap-4 pt-1 text-[13px]">
          <button
            type="button"
            className="text-verdigris hover:underline"
            onClick={() => keep.mutate({ run: answer.id, name: `What if of run ${base.id}` })}
          >
            Keep as variant
          </button>
          <button type="button" className="text-verdigris hover:underline" onClick={asked.clear}>
            Back to the run
          </button>
        </div>
      )}
    </section>
  );
}

type KnobProps = {
  entry: Entry;
  value: number | string;
  isOther: boolean;
  onSet: (value: number | string | undefined) => void;
};

/** One input: a slider up to twice what it was, and the value as it is written. */
function Knob({ entry, value, isOther, onSet }: KnobProps) {
  const was = Number.parseFloat(String(entry.value));
  const unit = typeof entry.value === "string" ? entry.value.replace(/^[-+\d.eE\s]+/, "") : "";
  const now = Number.parseFloat(String(value));
  const [held, setHeld] = useState<number>();
  const written = (x: number) => {
    const short = Number(x.toPrecision(4));
    return unit ? `${short} ${unit}` : short;
  };
  const waiting = useRef<number>(undefined);
  const letGo = () => {
    window.clearTimeout(waiting.current);
    if (held === undefined) return;
    onSet(Math.abs(held - was) < 1e-9 * Math.abs(was) ? undefined : written(held));
    setHeld(undefined);
  };
  const latest = useRef(letGo);
  latest.current = letGo;
  useEffect(() => () => window.clearTimeout(waiting.current), []);
  return (
    <div className="py-0.5">
      <Field
        label={entry.text}
        value={held === undefined ? String(value) : String(written(held))}
        onCommit={(text) => Promise.resolve(onSet(text === String(entry.value) ? undefined : number(text)))}
      />
      {was !== 0 && (
        <input
          type="range"
          aria-label={`${entry.text}, slider`}
          min={Math.min(0, 2 * was)}
          max={Math.max(0, 2 * was)}
          step={Math.abs(was) / STEPS}
          value={held ?? now}
          onChange={(e) => setHeld(Number(e.target.value))}
          onPointerUp={letGo}
          onKeyDown={() => window.clearTimeout(waiting.current)}
          onKeyUp={() => {
            // Keys come in rows: what they lead to is asked.
            window.clearTimeout(waiting.current);
            waiting.current = window.setTimeout(() => latest.current(), KEYS_REST);
          }}
          onBlur={letGo}
          title={isOther ? `was ${figure(was)} ${unit}` : undefined}
          className={`w-full ${isOther ? "accent-copper" : "accent-verdigris"}`}
        />
      )}
    </div>
  );
}

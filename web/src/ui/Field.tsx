import { useId, useState } from "react";

import { ApiProblem } from "@/api/client";

type Props = {
  label: string;
  value: string;
  /** Commit an entry; a rejected promise is shown under the field and the entry is kept for mending. */
  onCommit: (value: string) => Promise<unknown>;
  wide?: boolean;
  narrow?: boolean;
  placeholder?: string;
  hideLabel?: boolean;
  autoFocus?: boolean;
  onDone?: () => void;
  /** The id of a list of values that are offered. */
  list?: string;
};

/** A text entry that commits on Enter or when left, and says under itself what was wrong. */
export function Field({
  label,
  value,
  placeholder,
  onCommit,
  wide,
  narrow,
  hideLabel,
  autoFocus,
  onDone,
  list,
}: Props) {
  const [text, setText] = useState(value);
  const [problem, setProblem] = useState<ApiProblem>();
  const [shown, setShown] = useState(value);
  const input = useId();
  // In the same drawing as what stands beside it: an effect would leave the old number under a new unit for a moment.
  if (shown !== value) {
    setShown(value);
    setText(value);
    setProblem(undefined);
  }

  const commit = () => {
    const written = text.trim();
    if (written === value) {
      setProblem(undefined);
      onDone?.();
      return;
    }
    onCommit(written).then(
      () => {
        setProblem(undefined);
        onDone?.();
      },
      (error: unknown) =>
        setProblem(error instanceof ApiProblem ? error : new ApiProblem("error", String(error), "", "")),
    );
  };

  return (
    <div className="py-0.5">
      <div className="flex items-center justify-between gap-3">
        <label htmlFor={input} className={hideLabel ? "sr-only" : "min-w-0"}>
          {label}
        </label>
        <input
          id={input}
          value={text}
          placeholder={placeholder}
          list={list}
          autoFocus={autoFocus}
          aria-invalid={problem !== undefined}
          onChange={(e) => setText(e.target.value)}
          onFocus={(e) => e.target.select()}
          onBlur={commit}
          onKeyDown={(e) => {
            if (e.key === "Enter") e.currentTarget.blur();
            if (e.key === "Escape") {
              setText(value);
              setProblem(undefined);
              onDone?.();
            }
          }}
          className={`rounded border bg-white px-2 py-0.5 text-right ${wide ? "w-40" : narrow ? "w-20" : "w-24"} ${problem ? "border-vermilion" : "border-line"}`}
        />
      </div>
      {problem && (
        <p role="alert" className="mt-1 text-[12.5px] text-vermilion">
          {problem.message} {problem.hint}
        </p>
      )}
    </div>
  );
}

import type { ReactNode } from "react";

import type { HandFigure, JointAsk, JointInfo } from "@/api/client";
import { inChosenUnits, say } from "@/api/units";
import { type AskField, jointSort } from "@/api/vocabulary";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";
import { tell } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { number } from "./edits";

type Entry = string | number | boolean | string[] | null | undefined;

type Props = {
  ask: JointAsk;
  /** Sets an entry; a rejected promise says why it cannot be. */
  onChange: (name: string, value: unknown) => Promise<unknown>;
  /** The faces of an entry, and how they are picked. */
  faces: (field: AskField, value: Entry) => ReactNode;
};

/** As many options as stand side by side under 300 pixels. */
const SIDE_BY_SIDE = 22;

/** All that can be asked of a joint, one control an entry, as far as it counts. */
export function JointFields({ ask, onChange, faces }: Props) {
  const entries = ask as unknown as Record<string, Entry>;
  const counts = (field: AskField) =>
    Object.entries(field.shown_if).every(([other, values]) => values.includes(String(entries[other])));
  const draw = (field: AskField) => (
    <AskControl
      key={field.name}
      field={field}
      value={entries[field.name]}
      onChange={(value) => onChange(field.name, value)}
      faces={faces}
    />
  );
  const shown = jointSort(ask.kind).fields.filter(counts);
  const rare = shown.filter((f) => f.is_rare);
  return (
    <>
      {shown.filter((f) => !f.is_rare).map(draw)}
      {rare.length > 0 && (
        <details className="py-0.5">
          <summary className="cursor-pointer text-[13px] text-verdigris">More that can be asked</summary>
          {rare.map(draw)}
        </details>
      )}
    </>
  );
}

function AskControl({
  field,
  value,
  onChange,
  faces,
}: {
  field: AskField;
  value: Entry;
  onChange: (value: unknown) => Promise<unknown>;
  faces: Props["faces"];
}) {
  const { label, control } = field;
  if (control === "face" || control === "faces") return faces(field, value);
  if (control === "switch") return <Switch label={label} checked={!!value} onChange={(on) => tell(onChange(on))} />;
  if (control === "choice") {
    const options = field.options.map(([v, l]) => ({ value: v, label: l }));
    const props = { label, value: String(value), options, onChange: (v: string) => tell(onChange(v)) };
    return label.length + options.map((o) => o.label).join("").length > SIDE_BY_SIDE ? (
      <Select {...props} />
    ) : (
      <Choice {...props} />
    );
  }
  const written = value == null ? "" : String(value);
  return (
    <Field
      label={label}
      value={written}
      placeholder={field.empty}
      onCommit={(text) => onChange(text === "" ? null : control === "number" ? number(text) : text)}
    />
  );
}

const inWords = (value: number, { quantity }: HandFigure) =>
  quantity === "share" ? figure(value) : say(value, quantity);

/** The closed form of a joint, and what there is to say of it. */
export function JointFigures({ info }: { info: JointInfo }) {
  return (
    <Section title="By hand, before any run">
      {info.told.map((line) => (
        <p key={line} className="text-[12.5px] text-quiet">
          {inChosenUnits(line)}
        </p>
      ))}
      {info.figures.map((f) => (
        <div key={f.name} className="py-0.5" title={f.source}>
          <p className="flex items-baseline justify-between gap-3">
            <span>{inChosenUnits(f.name)}</span>
            <b className={`whitespace-nowrap ${f.holds ? "" : "text-copper"}`}>{inWords(f.value, f)}</b>
          </p>
          {(f.least != null || f.most != null || !f.holds) && (
            <p className={`text-right text-[12px] ${f.holds ? "text-quiet" : "text-copper"}`}>
              {rangeOf(f)}
              {!f.holds && ` ${f.why}`}
            </p>
          )}
        </div>
      ))}
    </Section>
  );
}

function rangeOf(f: HandFigure): string {
  if (f.least != null && f.most != null) return `${inWords(f.least, f)} to ${inWords(f.most, f)}`;
  return f.most != null ? `at most ${inWords(f.most, f)}` : "";
}

import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";

type Props = {
  written: Record<string, string>;
  /** What they come to, where that is known. */
  values: Record<string, string>;
  onChange: (written: Record<string, string>) => void;
};

/** Dimensions by name, which entries of a drawing can speak of. */
export function Dimensions({ written, values, onChange }: Props) {
  const names = Object.keys(written);
  const add = () => {
    const free = [..."abcdefghjklpqstuvw"].find((n) => !(n in written)) ?? `d_${names.length + 1}`;
    onChange({ ...written, [free]: "10 mm" });
  };
  const rename = (from: string, to: string) =>
    onChange(Object.fromEntries(Object.entries(written).map(([n, v]) => [n === from ? to.trim() || n : n, v])));
  return (
    <Section title="Dimensions to speak of">
      {names.map((name, i) => (
        <div key={i} className="flex flex-wrap items-center gap-x-1.5">
          <Field
            label={`Name of dimension ${i + 1}`}
            hideLabel
            value={name}
            onCommit={(text) => Promise.resolve(rename(name, text))}
          />
          <Field
            label={`Value of ${name}`}
            hideLabel
            value={written[name] ?? ""}
            onCommit={(text) => Promise.resolve(onChange({ ...written, [name]: text }))}
          />
          <button
            type="button"
            aria-label={`Take ${name} away`}
            className="text-quiet hover:text-vermilion"
            onClick={() => onChange(Object.fromEntries(Object.entries(written).filter(([n]) => n !== name)))}
          >
            ×
          </button>
          {values[name] !== undefined && values[name] !== written[name] && (
            <span className="w-full truncate pr-6 text-right text-[12.5px] text-quiet">= {values[name]}</span>
          )}
        </div>
      ))}
      <Button className="mt-1" onClick={add}>
        New dimension
      </Button>
      {names.length > 0 && (
        <p className="pt-1 text-[12.5px] text-quiet">Write 2*{names[0]} + 1 mm wherever a length stands.</p>
      )}
    </Section>
  );
}

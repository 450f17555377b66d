import { Field } from "@/ui/Field";
import { type EditFn, number, replace } from "./edits";

export const AXES = ["x", "y", "z"] as const;

type Props<T extends string | number> = {
  /** How the entry along an axis is called. */
  label: (axis: string) => string;
  values: readonly T[];
  path: string;
  /** What the edit is called. */
  name: string;
  onEdit: EditFn;
};

/** Three entries of one value, one for each axis: quantities as text, or plain numbers. */
export function Three<T extends string | number>({ label, values, path, name, onEdit }: Props<T>) {
  return (
    <>
      {AXES.map((axis, i) => (
        <Field
          key={axis}
          label={label(axis)}
          value={String(values[i] ?? "")}
          onCommit={(text) => {
            const entry = typeof values[i] === "number" ? number(text) : text;
            // Only what was typed is replaced: what else is there may have been changed a moment ago.
            return onEdit([replace(`${path}/${i}`, entry)], name);
          }}
        />
      ))}
    </>
  );
}

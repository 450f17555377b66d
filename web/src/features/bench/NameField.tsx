import { Field } from "@/ui/Field";
import { type EditFn, put } from "./edits";

/** The name of an item, to be changed. */
export function NameField({ name, path, onEdit }: { name: string; path: string; onEdit: EditFn }) {
  return (
    <Field label="Name" wide value={name} onCommit={(text) => onEdit([put(`${path}/name`, text)], `Name of ${name}`)} />
  );
}

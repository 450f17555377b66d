import { listOf, type NamedKind } from "@/features/items";
import { whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { tell } from "@/ui/notices";

import { type EditFn, freeId } from "./edits";

type Props = {
  kind: NamedKind;
  item: { id: string; name: string };
  among: { id: string; name: string }[] | undefined;
  onEdit: EditFn;
};

/** Adds another item like this one, a row of the board with all its cells, and selects it. */
export function CopyItem({ kind, item, among, onEdit }: Props) {
  const go = () => {
    const [id, select] = [freeId(item.id, among), whenDone()];
    const number = id.slice(item.id.length + 1);
    const value = { ...item, id, name: `${item.name.slice(0, 74)}, ${number}` };
    tell(
      onEdit([{ op: "add", path: `/${listOf(kind)}/-`, value }], `Copy ${item.name}`).then(() => select({ kind, id })),
    );
  };
  return (
    <Button className="mt-2 mr-2 self-start" onClick={go}>
      Copy it
    </Button>
  );
}

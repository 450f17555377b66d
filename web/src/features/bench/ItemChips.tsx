import type { NamedKind } from "@/features/items";
import { useSelection } from "@/features/selection";

/** Names of items, each of which leads to its inspector. */
export function ItemChips({ items }: { items: { kind: NamedKind; id: string; name: string }[] }) {
  const { select } = useSelection();
  return (
    <div className="flex flex-wrap gap-1">
      {items.map(({ kind, id, name }) => (
        <button
          key={`${kind}/${id}`}
          type="button"
          className="max-w-full truncate rounded-full border border-line bg-paper px-2 text-[12.5px] hover:bg-verdigris-pale"
          onClick={() => select({ kind, id })}
        >
          {name}
        </button>
      ))}
    </div>
  );
}

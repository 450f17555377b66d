import { useEdits } from "@/api/hooks";
import type { NamedKind } from "@/features/items";
import { whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { tell, useNotices } from "@/ui/notices";

type Props = {
  study: number;
  kind: NamedKind;
  item: { id: string; name: string };
  label?: string;
  withPieces?: boolean;
};

/** Takes an item out of the study, with what cannot be without it: the server says what that is. */
export function TakeOut({ study, kind, item, label = "Take it out", withPieces = false }: Props) {
  const { takeOut, undo } = useEdits(study);
  const { add } = useNotices();
  const go = async () => {
    const select = whenDone();
    const { told } = await takeOut.mutateAsync({ kind, id: item.id, with_pieces: withPieces });
    select({ kind: "study", id: "" });
    add({ tone: "good", text: `${item.name} is taken out. ${told}`.trim(), undo: () => undo.mutate() });
  };
  return (
    <Button tone="danger" className="mt-2 self-start" disabled={takeOut.isPending} onClick={() => tell(go())}>
      {label}
    </Button>
  );
}

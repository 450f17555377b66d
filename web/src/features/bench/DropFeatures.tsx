import { useState } from "react";

import type { PartUse } from "@/api/client";
import { useEdits } from "@/api/hooks";
import { whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { useNotices } from "@/ui/notices";
import { Refusal } from "@/ui/Refusal";
import { Section } from "@/ui/Section";

/** Leaves features out of a solid of a file: the picked face, and further ones, bound them. */
export function DropFeatures({ id, part, face }: { id: number; part: PartUse; face: string }) {
  const { dropFeatures, undo } = useEdits(id);
  const { add } = useNotices();
  const [also, setAlso] = useState<readonly string[]>([]);
  const faces = [...new Set([...also, face])];
  const go = () => {
    const select = whenDone();
    dropFeatures.mutate(
      { part: part.id, faces },
      {
        onSuccess: ({ told }) => {
          setAlso([]);
          select({ kind: "part", id: part.id });
          add({
            tone: "good",
            text: `${part.name} goes on without ${faces.join(", ")}. ${told}`.trim(),
            undo: () => undo.mutate(),
          });
        },
      },
    );
  };
  return (
    <Section title="Features that are left out">
      <p className="py-1 text-[12.5px] text-quiet">
        The faces that bound a hole, a rounding or a boss go, and those around them close over it.
      </p>
      <p className="py-1">{faces.join(", ")}</p>
      <div className="flex flex-wrap gap-1.5 py-1">
        <Button disabled={dropFeatures.isPending} onClick={go}>
          {dropFeatures.isPending ? "Leaving out…" : "Leave it out"}
        </Button>
        <Button disabled={also.includes(face)} onClick={() => setAlso(faces)}>
          Pick one more face
        </Button>
        {also.length > 0 && <Button onClick={() => setAlso([])}>Only {face}</Button>}
      </div>
      <Refusal of={dropFeatures.error} className="text-[12.5px]" />
    </Section>
  );
}

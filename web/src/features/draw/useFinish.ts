import type { PartUse, RecipeUse, StudyInfo } from "@/api/client";
import { useEdits } from "@/api/hooks";
import { useSelection } from "@/features/selection";

/** Ends drawing or bending: a new part is set in the study, on a plane or face, and selected; one that is there changes. */
export function useFinish(info: StudyInfo, part: PartUse | undefined, onClose: () => void) {
  const { addPart, redraw } = useEdits(info.id);
  const { select } = useSelection();
  const finish = (recipe: RecipeUse, renamed: Record<string, string>, name: string, on: string) => {
    if (part) return redraw.mutate({ part: part.id, recipe, renamed }, { onSuccess: onClose });
    return addPart.mutate(
      { kind: recipe.kind, recipe, name, on },
      {
        onSuccess: (after) => {
          const made = after.document.parts?.at(-1);
          if (made) select({ kind: "part", id: made.id });
          onClose();
        },
      },
    );
  };
  return { finish, problem: addPart.error ?? redraw.error, isBusy: addPart.isPending || redraw.isPending };
}

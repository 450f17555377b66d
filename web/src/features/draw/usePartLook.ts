import { useMemo } from "react";

import type { PartUse, StudyInfo } from "@/api/client";
import { partColour } from "@/scene/ramp";

/** How a part that is being made, or made anew, looks on a stage of its own: in the colour that it has in the study. */
export function usePartLook({ document }: StudyInfo, part?: PartUse) {
  const parts = document.parts ?? [];
  const index = part ? parts.findIndex((p) => p.id === part.id) : parts.length;
  return useMemo(
    () => ({
      colours: [partColour(index, false)],
      looks: ["solid" as const],
      highlights: [],
      showMesh: false,
      scale: 1,
    }),
    [index],
  );
}

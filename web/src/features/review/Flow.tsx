import { useMemo } from "react";

import type { StudyDocument, Summary } from "@/api/client";
import { JointMap } from "@/features/bench/JointMap";
import { jointGraph } from "@/features/bench/jointGraph";

/** The joint map with lines as wide as the force through each pair at the play head. */
export function Flow({ study, now }: { study: StudyDocument; now: Summary }) {
  const graph = useMemo(() => jointGraph(study, {}, undefined), [study]);
  const flow = Object.fromEntries(Object.entries(now.pairs).map(([id, p]) => [id, Math.hypot(...p.force)]));
  return <JointMap study={study} graph={graph} flow={flow} />;
}

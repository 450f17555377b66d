import { useMemo } from "react";

import type { JointAsk, JointInfo, StudyInfo } from "@/api/client";
import { useBegunJoint, useJointPreview, useJointScene } from "@/api/hooks";
import type { SceneBlock } from "@/api/sceneBlock";
import { type Joining, useSelection } from "@/features/selection";

/** A joint that is being made, as it would be: what is asked, what it is made of, and why it cannot be. */
export type JointDraft = {
  joining: Joining;
  ask: JointAsk | undefined;
  info: JointInfo | undefined;
  problem: Error | null;
  isWaiting: boolean;
  /** Whether its picture is still on the way. */
  isDrawing: boolean;
  scene: SceneBlock | undefined;
};

/** The joint that is being made, if any, with what the server says of it. */
export function useJointDraft({ id, revision }: StudyInfo): JointDraft | undefined {
  const { joining } = useSelection();
  const asked = joining && { faces: joining.faces, ...(joining.kind !== undefined && { kind: joining.kind }) };
  const begun = useBegunJoint(id, revision, asked);
  const first = joining?.faces.length && !begun.isPlaceholderData ? begun.data?.ask : undefined;
  const changes = joining?.changes;
  const ask = useMemo(
    () =>
      first && {
        ...first,
        ...Object.fromEntries(Object.entries(changes ?? {}).filter(([name]) => name in first)),
      },
    [first, changes],
  );
  // Asked as it begins, it is what was answered already.
  const isChanged = !!changes && Object.keys(changes).length > 0;
  const preview = useJointPreview(id, revision, isChanged ? ask : undefined);
  const scene = useJointScene(id, revision, ask);
  if (!joining) return undefined;
  return {
    joining,
    ask,
    info: ask ? (isChanged ? preview.data : begun.data) : undefined,
    problem: joining.faces.length ? (begun.error ?? preview.error) : null,
    isDrawing: scene.isFetching,
    isWaiting: begun.isFetching || preview.isFetching,
    scene: ask ? scene.data : undefined,
  };
}

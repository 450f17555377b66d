import { useMemo } from "react";

import type { StudyDocument } from "@/api/client";
import { useField, useRunScene } from "@/api/hooks";
import { perBody, perBodyVector } from "@/features/review/fields";
import { bodyColours } from "@/features/bench/benchLook";
import { Stage } from "@/scene/Stage";
import { Legend } from "@/features/review/Legend";

import type { Progress } from "./story";

const NOTHING = { colours: [], looks: [], highlights: [], showMesh: false, scale: 1 };

/** The last state whose results are kept, while a run goes on: von Mises stress at true scale. */
export function LastState({ study, runId, kept }: { study: StudyDocument; runId: number; kept: Progress["kept"] }) {
  const ready = kept.count > 0;
  const scene = useRunScene(runId, ready);
  const at = kept.count - 1;
  const stress = useField(runId, ready ? `${at}/parts/von_mises` : undefined);
  const motion = useField(runId, ready ? `${at}/parts/motion` : undefined);
  const high = useMemo(() => (stress.data ? stress.data.reduce((a, b) => Math.max(a, b), 0) : 1), [stress.data]);
  const look = useMemo(() => {
    if (!scene.data || !stress.data || !motion.data) return undefined;
    return {
      colours: bodyColours(study, scene.data),
      looks: scene.data.bodies.map(() => "field" as const),
      fields: perBody(scene.data, stress.data),
      motion: perBodyVector(scene.data, motion.data),
      limits: { low: 0, high, signed: false },
      highlights: [],
      showMesh: false,
      scale: 1,
    };
  }, [scene.data, stress.data, motion.data, high, study]);
  if (!ready)
    return (
      <div className="grid h-full place-items-center bg-stage text-quiet">
        The first converged state will be shown here.
      </div>
    );
  return (
    <Stage block={look && scene.data} look={look ?? NOTHING} hasLegend>
      <p className="pointer-events-none absolute top-2 left-4">
        <b>Von Mises stress</b>{" "}
        <span className="text-quiet">last converged state, increment {kept.number}, true scale</span>
      </p>
      {look && <Legend low={0} high={high} unit="MPa" signed={false} />}
    </Stage>
  );
}

import { useState } from "react";

import type { DrawnShape } from "@/api/client";
import { useDrawing } from "@/api/hooks";

import type { Chosen } from "./drawing";

export type Sketch = { shape: DrawnShape; dimensions: Record<string, string> };

/** A drawing that is being made, with its steps back and what the server says of it. */
export function useSketch(begin: Sketch) {
  const [steps, setSteps] = useState<Sketch[]>([begin]);
  const [chosen, choose] = useState<Chosen>();
  const now = steps.at(-1)!;
  const traced = useDrawing(now.shape, now.dimensions);
  /** `goesOn`: as part of the step before, as a drag is. */
  const change = (to: Partial<Sketch>, goesOn = false) => {
    const next = { ...now, ...to };
    setSteps(goesOn && steps.length > 1 ? [...steps.slice(0, -1), next] : [...steps, next]);
  };
  const back = () => {
    setSteps(steps.length > 1 ? steps.slice(0, -1) : steps);
    choose(undefined);
  };
  return {
    ...now,
    begin,
    chosen,
    choose,
    change,
    back,
    canGoBack: steps.length > 1,
    drawing: now.shape.outlines.length ? traced.data : undefined,
    /** Whether what is traced is of the drawing as it stands. */
    isTraced: !traced.isPlaceholderData && !traced.isFetching,
    problem: traced.error,
  };
}

export type SketchState = ReturnType<typeof useSketch>;

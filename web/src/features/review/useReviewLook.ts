import { useMemo } from "react";

import type { StudyDocument } from "@/api/client";
import { useField, useRunScene } from "@/api/hooks";
import { bodyColours } from "@/features/bench/benchLook";
import type { CutFace } from "@/api/sceneBlock";
import type { FieldInfo } from "@/api/vocabulary";
import type { Mirrors } from "@/scene/mirrors";
import type { Limits, StageLook } from "@/scene/Stage3D";

import type { Range } from "./Legend";
import { type Shown, limitsOf, meaningOf, perBody, perBodyVector } from "./fields";

/** Scene and look for what is shown at an increment: one pair's patch, or parts as a field, the rest ghosted. */
export function useReviewLook(
  study: StudyDocument,
  runId: number | undefined,
  head: number | undefined,
  shown: Shown,
  scale: number,
  own: Range | undefined,
  cutFace: CutFace | undefined,
  mirrors: Mirrors,
) {
  const scene = useRunScene(runId, head !== undefined);
  const at = head === undefined ? undefined : String(head);
  const motion = useField(runId, at && `${at}/parts/motion`);
  const partValues = useField(runId, at && shown.kind === "part" ? `${at}/parts/${shown.field}` : undefined);
  const pairValues = useField(
    runId,
    at && shown.kind === "pair" ? `${at}/pairs/${shown.pair}/${shown.field}` : undefined,
  );
  const pairMotion = useField(runId, at && shown.kind === "pair" ? `${at}/pairs/${shown.pair}/motion` : undefined);
  const meaning = meaningOf(shown);

  return useMemo(() => {
    const block = scene.data;
    if (!block || !motion.data) return undefined;
    const base = {
      colours: bodyColours(study, block),
      highlights: [],
      showMesh: false,
      motion: perBodyVector(block, motion.data),
      scale,
      mirrors,
    };
    if (shown.kind === "part") {
      if (!partValues.data) return undefined;
      const chosen = block.bodies.map((b) => shown.part === undefined || b.name.split("#")[0] === shown.part);
      const scaled = partValues.data.map((v) => v * meaning.factor);
      const fields = perBody(block, scaled).map((values, i) => (chosen[i] ? values : undefined));
      const onCut = cutFace && { ...cutFace, values: cutFace.values.map((v) => v * meaning.factor) };
      const found = limitsOf([...fields, onCut?.values], meaning.is_signed);
      const isQuiet = Math.max(-found.low, found.high) <= meaning.quiet * meaning.factor;
      const limits = limitsWithin(found, own, meaning, isQuiet);
      const look: StageLook = { ...base, looks: chosen.map((c) => (c ? "field" : "ghost")), fields, limits };
      if (onCut) look.cutFace = onCut;
      return { block, look, limits, meaning, isQuiet };
    }
    const index = block.patches.findIndex((p) => p.pair === shown.pair);
    const nodes = (block.patches[index]?.positions.length ?? 0) / 3;
    // Values of the pair shown before may still be there for a moment: wait for the right ones.
    if (
      !pairValues.data ||
      !pairMotion.data ||
      pairValues.data.length !== nodes ||
      pairMotion.data.length !== 3 * nodes
    )
      return undefined;
    const values = pairValues.data.map((v) => v * meaning.factor);
    const found = limitsOf([values], false);
    if (shown.field === "gap") found.low = values.reduce((a, b) => Math.min(a, b), found.high);
    const isQuiet = Math.max(-found.low, found.high) <= meaning.quiet * meaning.factor;
    const limits = limitsWithin(found, own, meaning, isQuiet);
    const look: StageLook = {
      ...base,
      looks: block.bodies.map(() => "ghost"),
      limits,
      patch: { index, values, motion: pairMotion.data, status: shown.field === "status" },
    };
    return { block, look, limits, meaning, isQuiet };
  }, [
    scene.data,
    motion.data,
    partValues.data,
    pairValues.data,
    pairMotion.data,
    shown,
    scale,
    study,
    meaning,
    own,
    cutFace,
    mirrors,
  ]);
}

/** Limits of the data, or those set by hand; of what is nothing but rounding, those of rounding. */
function limitsWithin(found: Range, own: Range | undefined, meaning: FieldInfo, isQuiet: boolean): Limits {
  const signed = meaning.is_signed;
  const least = meaning.quiet * meaning.factor;
  if (isQuiet && least > 0) return { low: signed ? -least : 0, high: least, signed };
  return own ? { ...own, signed, marksBeyond: true } : { ...found, signed };
}

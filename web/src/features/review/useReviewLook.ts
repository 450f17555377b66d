import { useMemo } from "react";

import type { StudyDocument } from "@/api/client";
import { useField, useRunScene } from "@/api/hooks";
import type { Sight } from "@/features/selection";
import { partOf } from "@/features/items";
import { bodyColours } from "@/features/bench/benchLook";
import { takenApart } from "@/features/bench/handMove";
import type { CutFace } from "@/api/sceneBlock";
import type { FieldInfo } from "@/api/vocabulary";
import type { Mirrors, Ring } from "@/scene/mirrors";
import { solidOf } from "@/scene/solids";
import { asLog } from "@/scene/ramp";
import type { BodyLook, Limits, StageLook } from "@/scene/Stage3D";

import type { Range } from "./Legend";
import { type Shown, fieldPath, limitsOf, meaningOf, perBody, perBodyVector } from "./fields";

type Wanted = {
  study: StudyDocument | undefined;
  runId: number | undefined;
  /** A run with the same mesh, whose skins are there already. */
  sceneOf?: number | undefined;
  head: number | undefined;
  shown: Shown;
  scale: number;
  /** Limits set by hand. */
  own?: Range | undefined;
  cutFace?: CutFace | undefined;
  mirrors?: Mirrors;
  ring?: Ring | undefined;
  /** How far parts are taken apart. */
  apart?: number;
  /** Colours by powers of ten, where the field has no sign. */
  isLog?: boolean | undefined;
  /** A surface of equal value in place of the skins of the parts. */
  surface?: CutFace | undefined;
  showsStart?: boolean;
  /** Parts that are hidden or seen through, by their ids. */
  sight?: Record<string, Sight>;
  /** Sections as the solids that they are of. */
  isSolid?: boolean;
};
const NO_MIRRORS: Mirrors = [false, false, false];
const NO_SIGHT: Record<string, Sight> = {};

/**
 * Scene and look for what is shown at an increment: one pair's patch, or parts as a field, the rest ghosted; so are parts
 * of which the field cannot be told.
 */
export function useReviewLook({
  study,
  runId,
  sceneOf = runId,
  head,
  shown,
  scale,
  own,
  cutFace,
  mirrors = NO_MIRRORS,
  ring,
  apart = 0,
  isLog = false,
  surface,
  showsStart = false,
  sight = NO_SIGHT,
  isSolid = false,
}: Wanted) {
  const scene = useRunScene(sceneOf, head !== undefined);
  const at = head === undefined ? undefined : String(head);
  const motion = useField(runId, at && `${at}/parts/motion`);
  const partValues = useField(runId, at && shown.kind === "part" ? `${at}/parts/${fieldPath(shown)}` : undefined);
  const pairValues = useField(
    runId,
    at && shown.kind === "pair" ? `${at}/pairs/${shown.pair}/${shown.field}` : undefined,
  );
  const pairMotion = useField(runId, at && shown.kind === "pair" ? `${at}/pairs/${shown.pair}/motion` : undefined);
  const meaning = meaningOf(shown);
  const section = scene.data;
  const solid = useMemo(
    () => (isSolid && section?.solid ? solidOf(section, section.solid) : undefined),
    [section, isSolid],
  );

  const view = useMemo(() => {
    const block = scene.data;
    if (!block || !motion.data || !study) return undefined;
    const looksOf = (chosen: boolean[]): BodyLook[] =>
      block.bodies.map((b, i) => sight[partOf(b.name)] ?? (chosen[i] ? "field" : "ghost"));
    const base = {
      colours: bodyColours(study, block),
      highlights: [],
      showMesh: false,
      showsStart,
      motion: perBodyVector(block, motion.data),
      scale,
      mirrors,
      ring,
      offsets: apart > 0 ? takenApart(block, apart) : [],
    };
    if (shown.kind === "part") {
      if (!partValues.data) return undefined;
      const scaled = perBody(
        block,
        partValues.data.map((v) => v * meaning.factor),
      );
      const chosen = block.bodies.map(
        (b, i) =>
          (shown.part === undefined || partOf(b.name) === shown.part) &&
          !sight[partOf(b.name)] &&
          !Number.isNaN(scaled[i]?.[0]),
      );
      const fields = scaled.map((values, i) => (chosen[i] ? values : undefined));
      const onCut = cutFace && { ...cutFace, values: cutFace.values.map((v) => v * meaning.factor) };
      const found = limitsOf([...fields, onCut?.values], meaning.is_signed);
      const isQuiet = Math.max(-found.low, found.high) <= meaning.quiet * meaning.factor;
      const limits = limitsWithin(found, own, meaning, isQuiet, isLog);
      const look: StageLook = { ...base, looks: looksOf(chosen), fields, limits };
      if (onCut) look.cutFace = onCut;
      if (surface) {
        look.looks = looksOf(chosen.map(() => false));
        look.cutFace = { ...surface, values: surface.values.map((v) => v * meaning.factor) };
      }
      if (!isSolid || !solid) return { block, look, limits, meaning, isQuiet };
      const spread = (values: (Float32Array | undefined)[] | undefined, width: 1 | 3) =>
        (values ?? []).map((v, i) => v && solid.spread(i, v, width));
      return {
        block: solid.block,
        look: { ...look, fields: spread(fields, 1), motion: spread(look.motion, 3) },
        limits,
        meaning,
        isQuiet,
      };
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
    const found = limitsOf([values], meaning.is_signed);
    if (shown.field === "gap") found.low = values.reduce((a, b) => Math.min(a, b), found.high);
    const isQuiet = Math.max(-found.low, found.high) <= meaning.quiet * meaning.factor;
    const limits = limitsWithin(found, own, meaning, isQuiet, isLog);
    const look: StageLook = {
      ...base,
      looks: looksOf(block.bodies.map(() => false)),
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
    surface,
    showsStart,
    sight,
    mirrors,
    ring,
    apart,
    isLog,
    isSolid,
    solid,
  ]);
  // Values of what was shown before are still there for a moment; of what is not asked for they may stay.
  const asked = shown.kind === "part" ? [motion, partValues] : [motion, pairValues, pairMotion];
  const isStale = asked.some((one) => one.isPlaceholderData);
  return useMemo(() => view && { ...view, isStale }, [view, isStale]);
}

/** Limits of the data, or those set by hand; of what is nothing but rounding, those of rounding. */
function limitsWithin(
  found: Range,
  own: Range | undefined,
  meaning: FieldInfo,
  isQuiet: boolean,
  isLog: boolean,
): Limits {
  const signed = meaning.is_signed;
  const least = meaning.quiet * meaning.factor;
  if (isQuiet && least > 0) return { low: signed ? -least : 0, high: least, signed };
  const span = isLog && !signed ? asLog(own ?? found) : (own ?? found);
  return { ...span, signed, marksBeyond: !!own };
}

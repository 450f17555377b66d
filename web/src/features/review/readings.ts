import type { SingularLines } from "@/api/client";
import type { SceneBlock } from "@/api/sceneBlock";
import { standsFor } from "@/api/units";
import type { FieldInfo } from "@/api/vocabulary";
import type { Vec } from "@/scene/drawSigns";
import type { StageLabel } from "@/scene/Stage";
import { type SkinPlace, pointOn, valueOn } from "@/scene/skinPlaces";
import type { Read, StageLook } from "@/scene/Stage3D";
import { figure } from "@/ui/format";

/** A reading that stays: where on a body, or on the patch of a pair. */
export type Pin = { id: string; body: string | undefined; place: SkinPlace };

type Seen = { block: SceneBlock; look: StageLook };
type Field = { values: Float32Array; positions: Float32Array; motion: Float32Array | undefined; body?: string };

/** Everything that shows a field now. */
function fieldsSeen({ block, look }: Seen): Field[] {
  const patch = look.patch && block.patches[look.patch.index];
  if (look.patch && patch)
    return [{ values: look.patch.values, positions: patch.positions, motion: look.patch.motion }];
  return block.bodies.flatMap((body, i) => {
    const values = look.fields?.[i];
    return values ? [{ values, positions: body.positions, motion: look.motion?.[i], body: body.name }] : [];
  });
}

function placeOf(field: Field, place: SkinPlace, scale: number): Vec {
  const at = pointOn(field.positions, place);
  const by = field.motion ? pointOn(field.motion, place) : [0, 0, 0];
  return at.map((x, k) => x + scale * (by[k] ?? 0)) as Vec;
}

/** What is read at a place, in the unit spoken; nothing where no field is shown there. */
export function readingAt(seen: Seen, { body, place, value }: Omit<Read, "point">, unit: string): string | undefined {
  if (!place) return value === undefined ? undefined : spokenValue(value, unit);
  const field = fieldsSeen(seen).find((f) => f.body === body);
  if (!field || place.corners.some((c) => c >= field.values.length)) return undefined;
  return spokenValue(valueOn(field.values, place), unit);
}

/** A value in the unit that a field is spoken in, as the reader has chosen to read it. */
export function spokenValue(value: number, unit: string): string {
  const { unit: read, factor } = standsFor(unit);
  return `${figure(value * factor)} ${read}`.trim();
}

/** The unit that a field is read in, and what stored values are multiplied by for it. */
export function inSpoken(meaning: FieldInfo): { unit: string; factor: number } {
  const { unit, factor } = standsFor(meaning.spoken);
  return { unit, factor: factor * meaning.factor };
}

/** Where a reading was pinned, before anything moved. */
export function placeOfPin(seen: Seen, pin: Pin): [Vec] | undefined {
  const field = fieldsSeen(seen).find((f) => f.body === pin.body);
  return field && [pointOn(field.positions, pin.place)];
}

/** Labels of pinned readings, where they are now. */
export function pinLabels(seen: Seen, pins: Pin[], unit: string): StageLabel[] {
  return pins.flatMap((pin) => {
    const field = fieldsSeen(seen).find((f) => f.body === pin.body);
    const text = readingAt(seen, pin, unit);
    return field && text !== undefined
      ? [{ id: pin.id, at: placeOf(field, pin.place, seen.look.scale), text, tone: "load" as const }]
      : [];
  });
}

/** The highest of what is shown, and of a signed field the lowest; none where all of it is quiet. */
export function extremeLabels(seen: Seen, unit: string, isSigned: boolean, quiet: number): StageLabel[] {
  const found = { highest: { v: -Infinity }, lowest: { v: Infinity } } as Record<
    "highest" | "lowest",
    { v: number; field?: Field; vertex?: number }
  >;
  for (const field of fieldsSeen(seen))
    field.values.forEach((v, vertex) => {
      if (v > found.highest.v) found.highest = { v, field, vertex };
      if (v < found.lowest.v) found.lowest = { v, field, vertex };
    });
  return (["highest", "lowest"] as const).flatMap((which) => {
    const { v, field, vertex } = found[which];
    if (!field || vertex === undefined || Math.abs(v) <= quiet || (which === "lowest" && !isSigned)) return [];
    const place: SkinPlace = { corners: [vertex, vertex, vertex], shares: [1, 0, 0] };
    const text = `${which} ${spokenValue(v, unit)}`;
    return [{ id: which, at: placeOf(field, place, seen.look.scale), text, tone: "tight" as const }];
  });
}

/** What each singular place is: at the corners of a section, else where its lines begin. */
export function singularLabels(places: SingularLines[]): StageLabel[] {
  return places.flatMap((place, i) => {
    const corners = place.lines.filter((line) => line.length === 1);
    return (corners.length ? corners : place.lines.slice(0, 1)).map((line, k) => ({
      id: `singular-${i}-${k}`,
      at: line[0] as Vec,
      text: place.text,
      tone: "load" as const,
    }));
  });
}

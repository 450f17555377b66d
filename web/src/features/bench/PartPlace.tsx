import type { PartUse, PatchStep, StudyDocument } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { type EditFn, put } from "./Inspector";

const AXES = ["x", "y", "z"] as const;

/** An id that is not in the list yet. */
export function freeId(stem: string, list: { id: string }[] | undefined): string {
  const taken = new Set((list ?? []).map((item) => item.id));
  for (let n = 1; ; n++) {
    const id = n === 1 ? stem : `${stem}-${n}`;
    if (!taken.has(id)) return id;
  }
}

/** What can be done with a picked face: hold it, load it, mate it with another. */
export function FaceActions({ study, part, face, onEdit, onMate }: { study: StudyDocument; part: PartUse; face: string; onEdit: EditFn; onMate: (face: string) => void }) {
  const { select, mating, mate } = useSelection();
  const reference = `${part.id}/${face}`;
  const last = study.steps?.at(-1)?.id;
  const add = async (list: "supports" | "loads", item: { id: string; name: string }, label: string) => {
    await onEdit([{ op: "add", path: `/${list}/-`, value: item }], label);
    select({ kind: list === "supports" ? "support" : "load", id: item.id });
  };
  const hold = () => {
    const id = freeId("hold", study.supports);
    void add("supports", Object.assign({ id, name: `Hold ${part.name}` }, { faces: [reference], kind: "fixed" }), `Hold ${reference}`);
  };
  const load = (kind: "force" | "pressure") => {
    const id = freeId(kind, study.loads);
    const more = kind === "force" ? { direction: [0, 0, -1] } : {};
    const values = last === undefined ? {} : { [last]: kind === "force" ? "1 kN" : "1 MPa" };
    void add("loads", Object.assign({ id, name: kind === "force" ? "Force" : "Pressure" }, { kind, faces: [reference], values, ...more }), `${kind} on ${reference}`);
  };
  const own = (part.placements ?? []).length > 1 ? `${part.id}#1/${face}` : reference;
  if (mating && mating !== own) return <Button tone="main" onClick={() => onMate(own)}>Bring {mating} to this face</Button>;
  return (
    <div className="flex flex-wrap gap-1.5 py-1">
      <Button onClick={hold}>Hold it</Button>
      <Button onClick={() => load("force")}>Force on it</Button>
      <Button onClick={() => load("pressure")}>Pressure on it</Button>
      <Button onClick={() => mate(own)}>Mate it…</Button>
    </div>
  );
}

/** Where a part stands, in numbers; parts in several copies are placed in the study file. */
export function Place({ part, path, onEdit }: { part: PartUse; path: string; onEdit: EditFn }) {
  const places = part.placements ?? [];
  const place = places[0];
  if (places.length !== 1 || !place) return null;
  const at = place.at ?? ["0 mm", "0 mm", "0 mm"];
  const axis = place.turn?.axis ?? "z";
  const angle = place.turn?.angle ?? "0 deg";
  const set = (next: object, label: string) => onEdit([{ op: "replace", path: `${path}/placements/0`, value: { ...place, ...next } }], `${label} of ${part.name}`);
  return (
    <Section title="Place: turned, then moved">
      <Select
        label="Turned about"
        value={typeof axis === "string" ? axis : "own"}
        options={[...AXES.map((a) => ({ value: a, label: a })), ...(typeof axis === "string" ? [] : [{ value: "own", label: axis.map((c) => c.toFixed(3)).join(", ") }])]}
        onChange={(a) => a !== "own" && void set({ turn: { axis: a, angle } }, "Turn")}
      />
      <Field label="by" value={angle} onCommit={(text) => set({ turn: { axis, angle: text } }, "Turn")} />
      {AXES.map((a, i) => (
        <Field key={a} label={`to ${a}`} value={at[i] ?? "0 mm"} onCommit={(text) => set({ at: at.map((c, k) => (k === i ? text : c)) }, "Place")} />
      ))}
    </Section>
  );
}

/** Holds the faces that cutting a part has left as planes of symmetry. */
export function symmetryAt(study: StudyDocument, part: PartUse, cuts: string[]): PatchStep[] {
  return cuts.map((cut) => ({
    op: "add",
    path: "/supports/-",
    value: { id: freeId(`symmetry-${part.id}-${cut.replace(".", "-")}`, study.supports), name: `Symmetry of ${part.name}`, kind: "symmetry", faces: [`${part.id}/${cut}`] },
  }));
}

/** Recipes with a cut across the shank. */
export const CAN_BE_TIGHTENED = ["bolt", "stud"];

/** Makes a part a bolt that is tightened in the first step; gives its id. */
export async function tighten(study: StudyDocument, part: PartUse, onEdit: EditFn): Promise<string> {
  const id = freeId(`tighten-${part.id}`, study.bolts);
  const first = study.steps?.[0]?.id;
  const value = { id, name: part.name, part: part.id, preload: first === undefined ? {} : { [first]: "10 kN" } };
  await onEdit([{ op: "add", path: "/bolts/-", value }], `Tighten ${part.name}`);
  return id;
}

type Listed = { faces?: string[] };

/** Take a part out with everything that stands on its faces alone; what also names others keeps those. */
export function takeOut(study: StudyDocument, id: string): PatchStep[] {
  const isOf = (reference: string) => reference.split("/")[0]?.split("#")[0] === id;
  const without = (refs: string[] | undefined) => (refs ?? []).filter((r) => !isOf(r));
  const stays = <T extends Listed>(list: T[] | undefined) =>
    (list ?? []).flatMap((item) => (item.faces?.some(isOf) ? (without(item.faces).length ? [{ ...item, faces: without(item.faces) }] : []) : [item]));
  const pairs = (study.pairs ?? [])
    .map((p) => ({ ...p, a: without(p.a), b: without(p.b) }))
    .filter((p) => p.a.length > 0 && (p.b.length > 0 || p.wall != null));
  return [
    put("/parts", (study.parts ?? []).filter((p) => p.id !== id)),
    put("/pairs", pairs),
    put("/bolts", (study.bolts ?? []).filter((b) => b.part !== id)),
    put("/supports", stays(study.supports)),
    put("/loads", stays(study.loads)),
  ];
}

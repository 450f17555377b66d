import type { LoadUse, PartUse, PatchStep, StudyDocument } from "@/api/client";
import { useFaceInfo } from "@/api/hooks";
import { usual } from "@/api/units";
import { useSelection, whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";
import { type EditFn, freeId, freeName, replace } from "./edits";

const AXES = ["x", "y", "z"] as const;

const millimetres = (value: number) => `${Number(value.toFixed(6))} mm`;

/** What loads on faces begin with. */
const ON_FACES = {
  force: { name: "Force", value: "1 kN", direction: [0, 0, -1] },
  pressure: { name: "Pressure", value: "1 MPa", direction: undefined },
  displacement: { name: "Motion", value: "0.1 mm", direction: [0, 0, -1] },
  radial: { name: "Radial motion", value: "0.1 mm", direction: [0, 0, 1] },
} as const;

/** What can be done with a picked face: hold it, load it, mate it with another. */
export function FaceActions({
  id: studyId,
  study,
  part,
  face,
  onEdit,
  onMate,
}: {
  id: number;
  study: StudyDocument;
  part: PartUse;
  face: string;
  onEdit: EditFn;
  onMate: (face: string) => void;
}) {
  const { selected, mating, mate, join, draw, pair, measured, measure } = useSelection();
  const look = useFaceInfo(studyId);
  const reference = `${part.id}/${face}`;
  const last = study.steps?.at(-1)?.id;
  const add = async (list: "supports" | "loads", item: { id: string; name: string }, label: string) => {
    const select = whenDone();
    await onEdit([{ op: "add", path: `/${list}/-`, value: item }], label);
    select({ kind: list === "supports" ? "support" : "load", id: item.id });
  };
  const hold = () => {
    const id = freeId("hold", study.supports);
    tell(
      add(
        "supports",
        Object.assign(
          { id, name: freeName(`Hold ${part.name}`, face, study.supports) },
          { faces: [reference], kind: "fixed" },
        ),
        `Hold ${reference}`,
      ),
    );
  };
  const load = (kind: keyof typeof ON_FACES, more: Pick<LoadUse, "direction" | "centre"> | object = {}) => {
    const id = freeId(kind, study.loads);
    const { name, value, direction } = { ...ON_FACES[kind], value: usual(ON_FACES[kind].value) };
    const values = last === undefined ? {} : { [last]: value };
    const item = {
      id,
      name: freeName(`${name} on ${part.name}`, face, study.loads),
      kind,
      faces: [reference],
      values,
      ...(direction && { direction }),
      ...more,
    };
    return add("loads", item, `${name} on ${reference}`);
  };
  const pulled = async () => {
    // Out of a flat face; what is curved has no direction of its own.
    const found = study.space === "solid" ? await look.mutateAsync(own).catch(() => undefined) : undefined;
    await load("force", found?.kind === "flat" ? { direction: found.direction } : {});
  };
  const radially = async () => {
    const found = await look.mutateAsync(own);
    const centre = found.at.map(millimetres);
    await load(
      "radial",
      found.kind === "round" ? { direction: found.direction.map((d) => Number(d.toFixed(9))), centre } : {},
    );
  };
  const handle = async () => {
    const select = whenDone();
    const found = await look.mutateAsync(own);
    const id = freeId("handle", study.handles);
    const value = {
      id,
      name: freeName(`Handle of ${part.name}`, face, study.handles),
      at: found.at.map(millimetres),
      faces: [reference],
      kind: "rigid",
    };
    await onEdit([{ op: "add", path: "/handles/-", value }], `Handle on ${reference}`);
    select({ kind: "handle", id });
  };
  const wall = async () => {
    const select = whenDone();
    const found = await look.mutateAsync(own);
    const id = freeId("wall", study.walls);
    const kind = { flat: "plane", round: "cylinder", ball: "sphere" }[found.kind];
    // A wall faces the part that it touches, and lies round a shaft or inside a hole.
    const direction =
      found.kind === "flat"
        ? found.direction.map((d) => (d === 0 ? 0 : -d))
        : found.kind === "round"
          ? found.direction
          : [0, 0, 1];
    const value = {
      id,
      name: freeName(`Wall at ${part.name}`, face, study.walls),
      kind,
      at: found.at.map(millimetres),
      direction,
      radius: millimetres(found.radius),
      hollow: found.kind !== "flat" && !found.is_hollow,
    };
    const pair = { id: freeId(`at-${id}`, study.pairs), name: `${part.name} – wall`, a: [reference], b: [], wall: id };
    await onEdit(
      [
        { op: "add", path: "/walls/-", value },
        { op: "add", path: "/pairs/-", value: pair },
      ],
      `Wall at ${reference}`,
    );
    select({ kind: "wall", id });
  };
  const own = (part.placements ?? []).length > 1 ? `${part.id}#${selected.copy ?? 1}/${face}` : reference;
  if (mating && mating !== own)
    return (
      <Button tone="main" onClick={() => onMate(own)}>
        Bring {mating} to this face
      </Button>
    );
  return (
    <div className="flex flex-wrap gap-1.5 py-1">
      <Button onClick={hold}>Hold it</Button>
      <Button onClick={() => tell(pulled())}>Force on it</Button>
      <Button onClick={() => tell(load("pressure"))}>Pressure on it</Button>
      <Button onClick={() => tell(load("displacement"))}>Move it</Button>
      {study.space === "solid" && <Button onClick={() => tell(radially())}>Radial motion</Button>}
      {study.space === "solid" && <Button onClick={() => join({ faces: [own], changes: {} })}>Joint…</Button>}
      {study.space === "solid" && <Button onClick={() => draw({ kind: "drawn", on: own })}>Draw on it…</Button>}
      <Button onClick={() => mate(own)}>Mate it…</Button>
      <Button onClick={() => pair({ a: [own], b: [], side: "b" })}>Pair it…</Button>
      {measured?.length === 1 && measured[0] !== own ? (
        <Button tone="main" onClick={() => measure([...measured, own])}>
          Reckon with {measured[0]}
        </Button>
      ) : (
        <Button onClick={() => measure([own])}>Reckon…</Button>
      )}
      <Button onClick={() => tell(handle())}>Handle on it</Button>
      <Button onClick={() => tell(wall())}>Wall against it</Button>
      {look.error && (
        <p role="alert" className="text-[12.5px] text-vermilion">
          {look.error.message}
        </p>
      )}
    </div>
  );
}

/** Where a part stands, in numbers, copy by copy; copies are added and taken out here. */
export function Place({ part, path, onEdit }: { part: PartUse; path: string; onEdit: EditFn }) {
  const { selected, select, isMoving, move } = useSelection();
  const places = part.placements ?? [];
  const copy = Math.min(selected.copy ?? 1, places.length);
  const place = places[copy - 1];
  if (!place) return null;
  const choose = (next: number) => select({ ...selected, copy: next });
  const at = place.at;
  const axis = place.turn?.axis ?? "z";
  const angle = place.turn?.angle ?? "0 deg";
  const own = `${path}/placements/${copy - 1}`;
  const set = (at: string, value: unknown, label: string) =>
    onEdit([replace(`${own}/${at}`, value)], `${label} of ${part.name}`);
  const turn = (key: "axis" | "angle", value: string) =>
    place.turn ? set(`turn/${key}`, value, "Turn") : set("turn", { axis, angle, [key]: value }, "Turn");
  const add = () =>
    onEdit([{ op: "add", path: `${path}/placements/-`, value: place }], `A copy of ${part.name}`).then(() =>
      choose(places.length + 1),
    );
  const drop = () =>
    onEdit([{ op: "remove", path: `${path}/placements/${copy - 1}` }], `Take out a copy of ${part.name}`).then(() =>
      choose(1),
    );
  return (
    <Section title="Place: mirrored, turned, then moved">
      {places.length > 1 && (
        <Select
          label="Copy"
          value={String(copy)}
          options={places.map((_, i) => ({ value: String(i + 1), label: `${i + 1} of ${places.length}` }))}
          onChange={(text) => choose(Number(text))}
        />
      )}
      <Switch
        label="Mirrored in x = 0"
        checked={place.mirrored}
        onChange={(on) => tell(set("mirrored", on, "Mirror"))}
      />
      <Select
        label="Turned about"
        value={typeof axis === "string" ? axis : "own"}
        options={[
          ...AXES.map((a) => ({ value: a, label: a })),
          ...(typeof axis === "string" ? [] : [{ value: "own", label: axis.map((c) => c.toFixed(3)).join(", ") }]),
        ]}
        onChange={(a) => a !== "own" && tell(turn("axis", a))}
      />
      <Field label="by" value={angle} onCommit={(text) => turn("angle", text)} />
      {AXES.map((a, i) => (
        <Field key={a} label={`to ${a}`} value={at[i] ?? "0 mm"} onCommit={(text) => set(`at/${i}`, text, "Place")} />
      ))}
      <div className="flex flex-wrap gap-1.5 py-1">
        <Button aria-pressed={isMoving} tone={isMoving ? "main" : undefined} onClick={() => move(!isMoving)}>
          {isMoving ? "Done moving" : "Move by hand"}
        </Button>
        <Button onClick={() => tell(add())}>Add a copy</Button>
        {places.length > 1 && (
          <Button tone="danger" onClick={() => tell(drop())}>
            Take this copy out
          </Button>
        )}
      </div>
      {isMoving && (
        <p role="status" className="text-[12.5px] text-quiet">
          Drag it on the stage: it lines up with sides and middles of other parts. Views 1 to 4 give the plane.
        </p>
      )}
    </Section>
  );
}

/** Holds the faces that cutting a part has left as planes of symmetry. */
export function symmetryAt(study: StudyDocument, part: PartUse, cuts: string[]): PatchStep[] {
  return cuts.map((cut) => ({
    op: "add",
    path: "/supports/-",
    value: {
      id: freeId(`symmetry-${part.id}-${cut.replace(".", "-")}`, study.supports),
      name: `Symmetry of ${part.name}`,
      kind: "symmetry",
      faces: [`${part.id}/${cut}`],
    },
  }));
}

/** Recipes with a cut across the shank. */
export const CAN_BE_TIGHTENED = ["bolt", "screw", "stud"];

/** Makes a part a bolt that is tightened in the first step; gives its id. */
export async function tighten(study: StudyDocument, part: PartUse, onEdit: EditFn): Promise<string> {
  const id = freeId(`tighten-${part.id}`, study.bolts);
  const first = study.steps?.[0]?.id;
  const value = { id, name: part.name, part: part.id, preload: first === undefined ? {} : { [first]: usual("10 kN") } };
  await onEdit([{ op: "add", path: "/bolts/-", value }], `Tighten ${part.name}`);
  return id;
}

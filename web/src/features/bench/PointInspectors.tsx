import type { HandleUse, LinkUse, SpringUse, StudyDocument, WallUse } from "@/api/client";
import { usual } from "@/api/units";
import { useSelection, whenDone } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";
import { SpringAxes } from "./AxesFields";
import { type InspectorProps, freeId, put, replace } from "./edits";
import { FaceList } from "./FaceList";
import { Head } from "./Head";
import { ItemChips } from "./ItemChips";
import { NameField } from "./NameField";
import { point } from "./signs";
import { TakeOut } from "./TakeOut";
import { AXES, Three } from "./Three";

/** Loads that can be put on a handle, with what each begins with. */
const AT_HANDLE = [
  { kind: "force", label: "Force at it", name: "Force", value: "1 kN" },
  { kind: "moment", label: "Moment at it", name: "Moment", value: "10 N*m" },
  { kind: "displacement", label: "Move it", name: "Motion", value: "0.1 mm" },
  { kind: "rotation", label: "Turn it", name: "Turn", value: "1 deg" },
] as const;

export function HandleInspector({
  info,
  study,
  handle,
  path,
  onEdit,
}: InspectorProps & { handle: HandleUse; path: string }) {
  const first = study.steps?.[0]?.id;
  const last = study.steps?.at(-1)?.id;
  const others = (study.handles ?? []).filter((h) => h.id !== handle.id);
  const add = async (
    list: "supports" | "loads" | "springs" | "links" | "bolts",
    kind: "support" | "load" | "spring" | "link" | "bolt",
    stem: string,
    item: object,
  ) => {
    const [id, select] = [freeId(stem, study[list]), whenDone()];
    await onEdit([{ op: "add", path: `/${list}/-`, value: { id, ...item } }], `${stem} at ${handle.name}`);
    select({ kind, id });
  };
  return (
    <>
      <Head kind="Handle" name={handle.name} />
      <NameField name={handle.name} path={path} onEdit={onEdit} />
      <Choice
        label="Leads its faces"
        value={handle.kind}
        options={[
          { value: "rigid", label: "rigidly" },
          { value: "averaging", label: "on average" },
        ]}
        onChange={(kind) => tell(onEdit([put(`${path}/kind`, kind)], `Kind of ${handle.name}`))}
      />
      <Three
        label={(a) => `at ${a}`}
        values={handle.at}
        path={`${path}/at`}
        name={`Place of ${handle.name}`}
        onEdit={onEdit}
      />
      <Section title="Leads">
        {!handle.part && (
          <FaceList
            study={study}
            path={`${path}/faces`}
            name={handle.name}
            faces={handle.faces ?? []}
            onEdit={onEdit}
          />
        )}
        <Select
          label="A whole part, rigid"
          value={handle.part ?? NONE}
          options={[{ value: NONE, label: "none" }, ...bodiesOf(study)]}
          onChange={(body) =>
            tell(
              onEdit(
                body === NONE
                  ? [put(`${path}/part`, null)]
                  : [replace(path, { ...handle, part: body, faces: [], kind: "rigid" })],
                `What ${handle.name} leads`,
              ),
            )
          }
        />
        <Field
          label="Mass at it"
          value={handle.mass}
          onCommit={(text) => onEdit([put(`${path}/mass`, text)], `Mass of ${handle.name}`)}
        />
      </Section>
      <Section title="What acts at it">
        <div className="flex flex-wrap gap-1.5 py-1">
          <Button
            onClick={() =>
              tell(
                add("supports", "support", "hold", { name: `Hold ${handle.name}`, kind: "fixed", handle: handle.id }),
              )
            }
          >
            Hold it
          </Button>
          {AT_HANDLE.map(({ kind, label, name, value }) => (
            <Button
              key={kind}
              onClick={() =>
                tell(
                  add("loads", "load", kind, {
                    name: `${name} at ${handle.name}`,
                    kind,
                    handle: handle.id,
                    direction: [0, 0, 1],
                    values: last === undefined ? {} : { [last]: value },
                  }),
                )
              }
            >
              {label}
            </Button>
          ))}
          <Button
            onClick={() =>
              tell(
                add("bolts", "bolt", "bolt", {
                  name: `Bolt at ${handle.name}`,
                  line: { head: handle.id, direction: [0, 0, 1], stiffness: "500 kN/mm" },
                  preload: first === undefined ? {} : { [first]: usual("10 kN") },
                }),
              )
            }
          >
            Bolt into the ground
          </Button>
          <Button
            onClick={() =>
              tell(
                add("springs", "spring", "spring", {
                  name: `Spring of ${handle.name}`,
                  a: handle.id,
                  stiffness: ["100 N/mm", "100 N/mm", "100 N/mm"],
                }),
              )
            }
          >
            Spring to the ground
          </Button>
        </div>
        {others.length > 0 && (
          <Select
            label="Link it to"
            value="-"
            options={[{ value: "-", label: "choose" }, ...others.map((h) => ({ value: h.id, label: h.name }))]}
            onChange={(b) =>
              b !== "-" &&
              tell(
                add("links", "link", "link", {
                  name: `${handle.name} – ${others.find((h) => h.id === b)?.name}`,
                  a: handle.id,
                  b,
                  kind: "hinge",
                }),
              )
            }
          />
        )}
      </Section>
      <TakeOut study={info.id} kind="handle" item={handle} />
    </>
  );
}

const NONE = "-";

/** Every copy of every part, as handles name them. */
const bodiesOf = (study: StudyDocument) =>
  (study.parts ?? []).flatMap((part) =>
    (part.placements ?? []).map((_, i, all) =>
      all.length > 1
        ? { value: `${part.id}#${i + 1}`, label: `${part.name} ${i + 1}` }
        : { value: part.id, label: part.name },
    ),
  );

/** The two handles between which something acts; the second may be the ground. */
function Ends({
  study,
  item,
  path,
  onEdit,
  mayBeGround,
}: Pick<InspectorProps, "study" | "onEdit"> & {
  item: { name: string; a: string; b?: string | null };
  path: string;
  mayBeGround?: boolean;
}) {
  const handles = (study.handles ?? []).map((h) => ({ value: h.id, label: h.name }));
  const end = (key: "a" | "b", value: string) =>
    tell(onEdit([put(`${path}/${key}`, value === NONE ? null : value)], `Ends of ${item.name}`));
  return (
    <>
      <Select
        label="Between"
        value={item.a}
        options={handles.filter((h) => h.value !== item.b)}
        onChange={(id) => end("a", id)}
      />
      <Select
        label="and"
        value={item.b ?? NONE}
        options={[
          ...(mayBeGround ? [{ value: NONE, label: "the ground" }] : []),
          ...handles.filter((h) => h.value !== item.a),
        ]}
        onChange={(id) => end("b", id)}
      />
    </>
  );
}

/** The axis of a link that is none of the machine's. */
const OTHER = "other";

/** From the first end of something to its second: a direction (the ends as they are written), x where there is none. */
function lineOf(study: StudyDocument, { a, b }: { a: string; b?: string | null }): [number, number, number] {
  const [from, to] = [a, b].map((id) => point((study.handles ?? []).find((h) => h.id === id)?.at));
  const [x, y, z] = [0, 1, 2].map((i) => (b && to && from ? (to[i] ?? 0) - (from[i] ?? 0) : 0));
  const length = Math.hypot(x ?? 0, y ?? 0, z ?? 0);
  const share = (c: number | undefined) => Number(((c ?? 0) / length).toFixed(9));
  return length > 0 ? [share(x), share(y), share(z)] : [1, 0, 0];
}

export function SpringInspector({
  info,
  study,
  spring,
  path,
  onEdit,
}: InspectorProps & { spring: SpringUse; path: string }) {
  return (
    <>
      <Head kind="Spring" name={spring.name} />
      <NameField name={spring.name} path={path} onEdit={onEdit} />
      <Ends study={study} item={spring} path={path} onEdit={onEdit} mayBeGround />
      <Choice
        label="Acts"
        value={spring.acts ?? "both"}
        options={[
          { value: "both", label: "both ways" },
          { value: "pulling", label: "only pulls" },
          { value: "pushing", label: "only pushes" },
        ]}
        onChange={(acts) => tell(onEdit([put(`${path}/acts`, acts)], `How ${spring.name} acts`))}
      />
      <Section title="Stiffness">
        <Three
          label={(a) => `along ${a}`}
          values={spring.stiffness}
          path={`${path}/stiffness`}
          name={`Stiffness of ${spring.name}`}
          onEdit={onEdit}
        />
        <Three
          label={(a) => `about ${a}`}
          values={spring.turning ?? []}
          path={`${path}/turning`}
          name={`Turning stiffness of ${spring.name}`}
          onEdit={onEdit}
        />
      </Section>
      <SpringAxes
        axes={spring.axes}
        line={lineOf(study, spring)}
        path={`${path}/axes`}
        name={spring.name}
        onEdit={onEdit}
      />
      <TakeOut study={info.id} kind="spring" item={spring} />
    </>
  );
}

export function LinkInspector({ info, study, link, path, onEdit }: InspectorProps & { link: LinkUse; path: string }) {
  return (
    <>
      <Head kind="Link" name={link.name} />
      <NameField name={link.name} path={path} onEdit={onEdit} />
      <Ends study={study} item={link} path={path} onEdit={onEdit} />
      <Choice
        label="Acts as"
        value={link.kind}
        options={[
          { value: "fixed", label: "fixed" },
          { value: "hinge", label: "hinge" },
          { value: "slider", label: "slider" },
        ]}
        onChange={(kind) => tell(onEdit([put(`${path}/kind`, kind)], `Kind of ${link.name}`))}
      />
      {link.kind !== "fixed" && (
        <Choice
          label="Axis"
          value={typeof link.axis === "string" ? link.axis : OTHER}
          options={[...AXES.map((a) => ({ value: a, label: a })), { value: OTHER, label: "other" }]}
          onChange={(axis) =>
            tell(onEdit([put(`${path}/axis`, axis === OTHER ? lineOf(study, link) : axis)], `Axis of ${link.name}`))
          }
        />
      )}
      {link.kind !== "fixed" && typeof link.axis === "object" && (
        <Three
          label={(a) => `axis, ${a}`}
          values={link.axis}
          path={`${path}/axis`}
          name={`Axis of ${link.name}`}
          onEdit={onEdit}
        />
      )}
      <TakeOut study={info.id} kind="link" item={link} />
    </>
  );
}

export function WallInspector({ info, study, wall, path, onEdit }: InspectorProps & { wall: WallUse; path: string }) {
  const pairs = (study.pairs ?? []).filter((p) => p.wall === wall.id);
  return (
    <>
      <Head kind={`Datum wall · ${wall.kind}`} name={wall.name} />
      <NameField name={wall.name} path={path} onEdit={onEdit} />
      <Three
        label={(a) => `at ${a}`}
        values={wall.at ?? []}
        path={`${path}/at`}
        name={`Place of ${wall.name}`}
        onEdit={onEdit}
      />
      {wall.kind !== "sphere" && (
        <Section title={wall.kind === "plane" ? "Out of the plane, towards the parts" : "Axis"}>
          <Three
            label={(axis) => axis}
            values={wall.direction}
            path={`${path}/direction`}
            name={`Direction of ${wall.name}`}
            onEdit={onEdit}
          />
        </Section>
      )}
      {wall.kind !== "plane" && (
        <Field
          label="Radius"
          value={wall.radius ?? ""}
          onCommit={(text) => onEdit([put(`${path}/radius`, text)], `Radius of ${wall.name}`)}
        />
      )}
      {wall.kind !== "plane" && (
        <Switch
          label="Parts are inside it"
          checked={wall.hollow ?? false}
          onChange={(hollow) => tell(onEdit([put(`${path}/hollow`, hollow)], `Side of ${wall.name}`))}
        />
      )}
      <Select
        label="Moves with"
        value={wall.handle ?? NONE}
        options={[
          { value: NONE, label: "nothing, it is fixed" },
          ...(study.handles ?? []).map((h) => ({ value: h.id, label: h.name })),
        ]}
        onChange={(id) => tell(onEdit([put(`${path}/handle`, id === NONE ? null : id)], `What moves ${wall.name}`))}
      />
      {pairs.length > 0 && (
        <Section title="Its pairs">
          <ItemChips items={pairs.map(({ id, name }) => ({ kind: "pair", id, name }))} />
        </Section>
      )}
      <TakeOut study={info.id} kind="wall" item={wall} />
    </>
  );
}

/** Handles, walls, springs and links of the study, to be selected. */
export function PointList({ study }: { study: StudyDocument }) {
  const { select } = useSelection();
  const lists = [
    { kind: "handle", label: "Handle", items: study.handles },
    { kind: "wall", label: "Datum wall", items: study.walls },
    { kind: "spring", label: "Spring", items: study.springs },
    { kind: "link", label: "Link", items: study.links },
  ] as const;
  if (!lists.some((l) => l.items?.length)) return null;
  return (
    <Section title="Handles, walls, springs, links">
      {lists.flatMap(({ kind, label, items }) =>
        (items ?? []).map((item) => (
          <button
            key={`${kind}/${item.id}`}
            type="button"
            onClick={() => select({ kind, id: item.id })}
            className="flex w-full justify-between rounded px-1 py-0.5 text-left hover:bg-paper"
          >
            {item.name} <span className="text-quiet">{label}</span>
          </button>
        )),
      )}
    </Section>
  );
}

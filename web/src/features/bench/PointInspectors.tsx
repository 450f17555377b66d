import type { HandleUse, LinkUse, SpringUse, StudyDocument, WallUse } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { type EditFn, type InspectorProps, freeId, number, put } from "./edits";
import { Head } from "./Head";
import { TakeOut } from "./TakeOut";

const AXES = ["x", "y", "z"] as const;

/** Three written quantities, one for each axis. */
function Three({
  label,
  values,
  path,
  name,
  onEdit,
}: {
  label: (axis: string) => string;
  values: readonly string[];
  path: string;
  name: string;
  onEdit: EditFn;
}) {
  return (
    <>
      {AXES.map((axis, i) => (
        <Field
          key={axis}
          label={label(axis)}
          value={values[i] ?? ""}
          onCommit={(text) =>
            onEdit(
              [
                put(
                  path,
                  values.map((v, k) => (k === i ? text : v)),
                ),
              ],
              name,
            )
          }
        />
      ))}
    </>
  );
}

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
  const { select } = useSelection();
  const last = study.steps?.at(-1)?.id;
  const others = (study.handles ?? []).filter((h) => h.id !== handle.id);
  const add = async (
    list: "supports" | "loads" | "springs" | "links",
    kind: "support" | "load" | "spring" | "link",
    stem: string,
    item: object,
  ) => {
    const id = freeId(stem, study[list]);
    await onEdit([{ op: "add", path: `/${list}/-`, value: { id, ...item } }], `${stem} at ${handle.name}`);
    select({ kind, id });
  };
  return (
    <>
      <Head kind="Handle" name={handle.name} />
      <Field
        label="Name"
        wide
        value={handle.name}
        onCommit={(text) => onEdit([put(`${path}/name`, text)], "Name of a handle")}
      />
      <Choice
        label="Leads its faces"
        value={handle.kind ?? "rigid"}
        options={[
          { value: "rigid", label: "rigidly" },
          { value: "averaging", label: "on average" },
        ]}
        onChange={(kind) => tell(onEdit([put(`${path}/kind`, kind)], `Kind of ${handle.name}`))}
      />
      <Three
        label={(a) => `at ${a}`}
        values={handle.at ?? ["0 mm", "0 mm", "0 mm"]}
        path={`${path}/at`}
        name={`Place of ${handle.name}`}
        onEdit={onEdit}
      />
      <Section title="Leads">
        {(handle.faces ?? []).map((face) => (
          <p key={face}>{face}</p>
        ))}
        {handle.part && <p>the whole of {handle.part}</p>}
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
                    name,
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

const nameOf = (study: StudyDocument, handle: string | null | undefined) =>
  (study.handles ?? []).find((h) => h.id === handle)?.name ?? "the ground";

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
      <Row label="Between">{nameOf(study, spring.a)}</Row>
      <Row label="and">{nameOf(study, spring.b)}</Row>
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
      <TakeOut study={info.id} kind="spring" item={spring} />
    </>
  );
}

export function LinkInspector({ info, study, link, path, onEdit }: InspectorProps & { link: LinkUse; path: string }) {
  return (
    <>
      <Head kind="Link" name={link.name} />
      <Row label="Between">{nameOf(study, link.a)}</Row>
      <Row label="and">{nameOf(study, link.b)}</Row>
      <Choice
        label="Acts as"
        value={link.kind ?? "fixed"}
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
          value={link.axis ?? "z"}
          options={AXES.map((a) => ({ value: a, label: a }))}
          onChange={(axis) => tell(onEdit([put(`${path}/axis`, axis)], `Axis of ${link.name}`))}
        />
      )}
      <TakeOut study={info.id} kind="link" item={link} />
    </>
  );
}

export function WallInspector({ info, study, wall, path, onEdit }: InspectorProps & { wall: WallUse; path: string }) {
  const { select } = useSelection();
  const pairs = (study.pairs ?? []).filter((p) => p.wall === wall.id);
  return (
    <>
      <Head kind={`Datum wall · ${wall.kind}`} name={wall.name} />
      <Three
        label={(a) => `at ${a}`}
        values={wall.at ?? []}
        path={`${path}/at`}
        name={`Place of ${wall.name}`}
        onEdit={onEdit}
      />
      {wall.kind !== "sphere" && (
        <Section title={wall.kind === "plane" ? "Out of the plane, towards the parts" : "Axis"}>
          {AXES.map((axis, i) => (
            <Field
              key={axis}
              label={axis}
              value={String(wall.direction?.[i] ?? 0)}
              onCommit={(text) =>
                onEdit(
                  [
                    put(
                      `${path}/direction`,
                      (wall.direction ?? [0, 0, 1]).map((d, k) => (k === i ? number(text) : d)),
                    ),
                  ],
                  `Direction of ${wall.name}`,
                )
              }
            />
          ))}
        </Section>
      )}
      {wall.kind !== "plane" && (
        <Field
          label="Radius"
          value={wall.radius ?? ""}
          onCommit={(text) => onEdit([put(`${path}/radius`, text)], `Radius of ${wall.name}`)}
        />
      )}
      <Section title="Its pairs">
        {pairs.map((p) => (
          <button
            key={p.id}
            type="button"
            className="block text-verdigris hover:underline"
            onClick={() => select({ kind: "pair", id: p.id })}
          >
            {p.name}
          </button>
        ))}
      </Section>
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

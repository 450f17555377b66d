import type { JointUse } from "@/api/client";
import { useJoint } from "@/api/hooks";
import { jointSort, vocabulary } from "@/api/vocabulary";
import { type NamedKind, nameOf } from "@/features/items";
import { Field } from "@/ui/Field";
import { Refusal } from "@/ui/Refusal";
import { Section } from "@/ui/Section";
import { type InspectorProps, put } from "./edits";
import { FaceList } from "./FaceList";
import { Head } from "./Head";
import { ItemChips } from "./ItemChips";
import { useSelection } from "@/features/selection";
import { JointFields, JointFigures } from "./JointFields";
import { NameField } from "./NameField";
import { TakeOut } from "./TakeOut";

/** A joint as a whole: what is asked of it, its closed form, and its pieces. */
export function JointInspector({
  info,
  study,
  joint,
  path,
  onEdit,
}: InspectorProps & { joint: JointUse; path: string }) {
  const look = useJoint(info.id, info.revision, joint.id);
  const { gathering, gather } = useSelection();
  const pieces = piecesOf(joint);
  const set = (name: string, value: unknown, label: string) =>
    onEdit([put(`${path}/ask/${name}`, value)], `${label} of ${joint.name}`);
  const labelOf = (name: string) => jointSort(joint.ask.kind).fields.find((f) => f.name === name)?.label ?? name;
  return (
    <>
      <Head kind={`Joint · ${jointSort(joint.ask.kind).label.toLowerCase()}`} name={joint.name} />
      <NameField name={joint.name} path={path} onEdit={onEdit} />
      <Refusal of={look.error} className="my-1" />
      <JointFields
        ask={joint.ask}
        onChange={(name, value) => set(name, value, labelOf(name))}
        faces={(field, value) =>
          field.control === "faces" ? (
            <Section key={field.name} title={field.label}>
              <FaceList
                study={study}
                path={`${path}/ask/${field.name}`}
                name={joint.name}
                faces={(value as string[] | undefined) ?? []}
                onEdit={onEdit}
              />
            </Section>
          ) : (
            <div key={field.name}>
              <Field
                label={field.label}
                wide
                placeholder={field.empty}
                value={(value as string | null | undefined) ?? ""}
                onCommit={(text) => set(field.name, text || null, field.label)}
              />
              <button
                type="button"
                aria-pressed={gathering === `${path}/ask/${field.name}`}
                className="ml-auto block rounded px-1 text-[13px] text-verdigris hover:underline aria-pressed:bg-verdigris aria-pressed:text-white"
                onClick={() =>
                  gather(gathering === `${path}/ask/${field.name}` ? undefined : `${path}/ask/${field.name}`)
                }
              >
                {gathering === `${path}/ask/${field.name}` ? "Leave it" : `Pick ${field.label.toLowerCase()}`}
              </button>
            </div>
          )
        }
      />
      {look.data && <JointFigures info={look.data} />}
      <Section title={`Made of ${look.data?.makes ?? `${pieces.length} pieces`}`}>
        <ItemChips items={pieces.map((p) => ({ ...p, name: nameOf(study, p.kind, p.id) }))} />
        <p className="pt-1 text-[12.5px] text-quiet">
          They follow the joint; what is changed on them by hand stays, until the joint changes it.
        </p>
      </Section>
      <TakeOut study={info.id} kind="joint" item={joint} label="Unmake it, keep its pieces" />{" "}
      <TakeOut study={info.id} kind="joint" item={joint} label="Take it out with its pieces" withPieces />
    </>
  );
}

/** The pieces of a joint in the order of the document. */
const piecesOf = (joint: JointUse): { kind: NamedKind; id: string }[] =>
  vocabulary().kinds.flatMap(({ name, list }) =>
    Object.keys((joint.pieces as Record<string, Record<string, string>> | undefined)?.[list] ?? {}).map((id) => ({
      kind: name as NamedKind,
      id,
    })),
  );

import type { StudyDocument } from "@/api/client";
import { Section } from "@/ui/Section";

import type { InspectorProps } from "./edits";
import { Head } from "./Head";
import { ItemChips } from "./ItemChips";
import { EnforcementFields, LawFields } from "./LawFields";
import { NameField } from "./NameField";
import { TakeOut } from "./TakeOut";

type ContactUse = NonNullable<StudyDocument["contacts"]>[number];

/** A contact property: a change of it is a change of all pairs that have it. */
export function ContactInspector({
  info,
  study,
  contact,
  path,
  onEdit,
}: InspectorProps & { contact: ContactUse; path: string }) {
  const users = (study.pairs ?? []).filter((p) => p.contact === contact.id);
  const owner = { name: contact.name, path, onEdit };
  return (
    <>
      <Head kind="Contact property" name={contact.name} />
      <NameField name={contact.name} path={path} onEdit={onEdit} />
      <LawFields {...owner} law={contact.law} />
      <EnforcementFields {...owner} enforcement={contact.enforcement} />
      <Section title={`Of ${users.length} ${users.length === 1 ? "pair" : "pairs"}`}>
        <ItemChips items={users.map(({ id, name }) => ({ kind: "pair", id, name }))} />
        <p className="pt-1 text-[12.5px] text-quiet">A pair that is given a law of its own follows it no more.</p>
      </Section>
      <TakeOut study={info.id} kind="contact" item={contact} />
    </>
  );
}

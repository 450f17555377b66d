import type { StudyDocument } from "@/api/client";
import { type KindName, vocabulary } from "@/api/vocabulary";

export type Named = { id: string; name: string };

/** Kinds whose items have an id and a name: all that can be selected. */
export type NamedKind = Exclude<KindName, "left-out">;

/** The items of a kind in a study. */
export function itemsOf(study: StudyDocument, kind: NamedKind): Named[] {
  const list = vocabulary().kinds.find((k) => k.name === kind)?.list as keyof StudyDocument | undefined;
  return list ? ((study[list] as Named[] | undefined) ?? []) : [];
}

/** Where a kind is kept in the document, as the first step of a patch's path. */
export const listOf = (kind: NamedKind) => vocabulary().kinds.find((k) => k.name === kind)?.list ?? "";

export const labelOf = (kind: NamedKind) => vocabulary().kinds.find((k) => k.name === kind)?.label ?? kind;

/** The name of an item, or its id where it is not there. */
export const nameOf = (study: StudyDocument, kind: NamedKind, id: string) =>
  itemsOf(study, kind).find((i) => i.id === id)?.name ?? id;

/** Kinds that can be selected, in the order of the document. */
export const namedKinds = () =>
  vocabulary()
    .kinds.map((k) => k.name)
    .filter((name): name is NamedKind => name !== "left-out");

/** The part that a body is a copy of. */
export const partOf = (body: string) => body.split("#")[0] ?? "";

/** A face of a body as it is called: Bracket 2 / back. */
export function faceName(study: StudyDocument, reference: string): string {
  const [body = "", face] = reference.split("/");
  return `${bodyName(study, body)} / ${face}`;
}

/** The name of a part, with the number of the copy where it has several. */
export function bodyName(study: StudyDocument, body: string): string {
  const copy = body.split("#")[1];
  const name = study.parts?.find((p) => p.id === partOf(body))?.name ?? body;
  return copy ? `${name} ${copy}` : name;
}

import type { PatchStep, Preflight, RecipeInfo, StudyDocument, StudyInfo } from "@/api/client";

export type EditFn = (patch: PatchStep[], label: string) => Promise<unknown>;

/** What every inspector is given. */
export type InspectorProps = {
  info: StudyInfo;
  study: StudyDocument;
  onEdit: EditFn;
  recipes: RecipeInfo[];
  preflight: Preflight | undefined;
  /** Names of the faces of every part. */
  faces: Record<string, string[]>;
  /** Names of the faces that meet a face of a part in an edge. */
  neighbours: (part: string, face: string) => string[];
  /** Brings the face that waits for it to this one. */
  onMate: (face: string) => void;
};

/** A patch that sets an entry of a table whether or not it was there; in a list it would be put before what is there. */
export const put = (path: string, value: unknown): PatchStep => ({ op: "add", path, value });

/** A patch that puts another item in the place of one of a list. */
export const replace = (path: string, value: unknown): PatchStep => ({ op: "replace", path, value });

/** The entry of a study at a path such as `/supports/0/faces`. */
export const entryAt = (study: StudyDocument, path: string): unknown =>
  path
    .slice(1)
    .split("/")
    .reduce<unknown>((node, step) => (node as Record<string, unknown> | undefined)?.[step], study);

/** A number as the server expects it; other text goes as it is, for the server to explain. */
export const number = (text: string): number | string => {
  const value = Number(text.replace(",", "."));
  return text.trim() && Number.isFinite(value) ? value : text;
};

/** An id that no item of a list has: the stem, or the stem with the next free number. */
export function freeId(stem: string, list: { id: string }[] | undefined): string {
  const taken = new Set((list ?? []).map((item) => item.id));
  if (!taken.has(stem)) return stem;
  let n = 2;
  while (taken.has(`${stem}-${n}`)) n++;
  return `${stem}-${n}`;
}

/** A name that tells an item from the others of its list: the stem, with what it is about, or with a number. */
export function freeName(stem: string, about: string, list: { name: string }[] | undefined): string {
  const taken = new Set((list ?? []).map((item) => item.name));
  if (!taken.has(stem)) return stem;
  const longer = `${stem} (${about})`;
  let n = 2;
  while (taken.has(n > 2 ? `${longer} ${n - 1}` : longer)) n++;
  return n > 2 ? `${longer} ${n - 1}` : longer;
}

import type { StudyDocument } from "@/api/client";
import { itemsOf, labelOf, listOf, namedKinds } from "@/features/items";

/** An entry of the document that has a number: its path with items by their ids, its words, and what stands there. */
export type Entry = { path: string; text: string; value: number | string };

const WRITTEN = /^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*[A-Za-zµ°²³/*^·0-9]*\s*$/;
/** What names or places an item is no input. */
const NAMES = new Set(["id", "name", "pieces", "drawn", "bent", "file", "found"]);

/** Everything in a study that can be varied. */
export function entriesOf(study: StudyDocument): Entry[] {
  return namedKinds().flatMap((kind) =>
    kind === "joint"
      ? []
      : itemsOf(study, kind).flatMap((item) =>
          leaves(item, `/${listOf(kind)}/${item.id}`, `${labelOf(kind)} ${item.name}:`),
        ),
  );
}

function leaves(value: unknown, path: string, text: string): Entry[] {
  if (typeof value === "number" && Number.isFinite(value)) return [{ path, text, value }];
  if (typeof value === "string") return WRITTEN.test(value) ? [{ path, text, value }] : [];
  if (Array.isArray(value)) return value.flatMap((inner, i) => leaves(inner, `${path}/${i}`, `${text} ${i + 1}`));
  if (value === null || typeof value !== "object") return [];
  return Object.entries(value)
    .filter(([key]) => !NAMES.has(key) && !key.includes("/"))
    .flatMap(([key, inner]) => leaves(inner, `${path}/${key}`, `${text} ${key.replaceAll("_", " ")}`));
}

import type { StudyDocument } from "@/api/client";
import { itemsOf, labelOf, listOf, namedKinds } from "@/features/items";

/** An entry of the document that has a number: its path with items by their ids, its words, and what stands there. */
export type Entry = { path: string; text: string; value: number | string };

const WRITTEN = /^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*[A-Za-zµ°²³/*^·0-9]*\s*$/;
/** What names or places an item is no input. */
const NAMES = new Set(["id", "name", "pieces", "drawn", "bent", "file", "found"]);

/** Words for what the document calls otherwise. */
const WORDS: Record<string, string> = { law: "", mu: "friction coefficient µ", values: "", recipe: "", dimensions: "" };
/** Entries that need no new factors: friction, tightening, loads and fits. */
const SERVED = [
  /^\/pairs\/[^/]+\/law\/mu$/,
  /^\/contacts\/[^/]+\/law\/mu$/,
  /^\/bolts\/[^/]+\/preload\//,
  /^\/loads\/[^/]+\/values\//,
  /^\/pairs\/[^/]+\/interference$/,
];

/** What of a study can be varied without new factors, as far as it counts there. */
export function servedOf(study: StudyDocument): Entry[] {
  const counts = new Set(
    (study.pairs ?? []).flatMap((p) => [
      ...(p.law?.may_slide === "friction" ? [`/pairs/${p.id}/law/mu`] : []),
      ...(p.fit === "value" ? [`/pairs/${p.id}/interference`] : []),
    ]),
  );
  return entriesOf(study).filter(
    (e) => SERVED.some((s) => s.test(e.path)) && (!e.path.startsWith("/pairs") || counts.has(e.path)),
  );
}

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
    .flatMap(([key, inner]) =>
      leaves(inner, `${path}/${key}`, `${text} ${WORDS[key] ?? key.replaceAll("_", " ")}`.trimEnd()),
    );
}

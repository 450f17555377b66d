import type { PairUse, PatchStep, Preflight, StudyDocument, StudyInfo } from "@/api/client";

import { put } from "./edits";
import { lawText, startText } from "./jointGraph";

/** A pair as the table shows it: texts that are seen, and what it is sorted by. */
export type PairRow = {
  pair: PairUse;
  index: number;
  parts: string;
  joint: string;
  property: string;
  law: string;
  start: string;
  gap: number;
  cover: number | undefined;
  /** Whether the other side should carry the check, as preflight sees it. */
  shouldSwap: boolean;
  released: string;
  isAsleep: boolean;
};

export const FITS: Record<string, string> = {
  "as-drawn": "as drawn",
  "overlap-removed": "overlap removed",
  "closed-up": "closed up",
  value: "set to a value",
};

export const MEANT: Record<string, string> = {
  "to-hold": "to stay shut and hold",
  "to-slide": "to slide",
  "to-open": "to open",
  "to-seal": "to seal",
  "to-carry-nothing": "to carry nothing",
};

const owners = (study: StudyDocument, faces: string[]) => {
  const ids = new Set(faces.map((f) => (f.split("/")[0] ?? "").split("#")[0]));
  return [...ids].map((id) => study.parts?.find((p) => p.id === id)?.name ?? id).join(", ");
};

/** All pairs of a study with what preflight knows of their start. */
export function pairRows({ document: study, asleep }: StudyInfo, preflight: Preflight | undefined): PairRow[] {
  const starts = new Map((preflight?.pairs ?? []).map((p) => [p.id, p]));
  const swaps = new Set(
    (preflight?.findings ?? []).filter((f) => f.code === "cover").map((f) => f.where.split("/")[1]),
  );
  return (study.pairs ?? []).map((pair, index) => {
    const start = starts.get(pair.id);
    const wall = study.walls?.find((w) => w.id === pair.wall)?.name;
    return {
      pair,
      index,
      parts: `${owners(study, pair.a)} – ${wall ?? owners(study, pair.b)}`,
      joint: study.joints?.find((j) => pair.id in (j.pieces?.pairs ?? {}))?.name ?? "",
      property: study.contacts?.find((c) => c.id === pair.contact)?.name ?? "",
      law: lawText(pair),
      start: startText(start?.gap),
      gap: start?.gap ?? Infinity,
      cover: start?.cover,
      shouldSwap: swaps.has(pair.id),
      released: (pair.released ?? []).map((id) => study.steps?.find((s) => s.id === id)?.name ?? id).join(", "),
      isAsleep: asleep?.pair?.includes(pair.id) ?? false,
    };
  });
}

/** Entries of pairs that are set for several at once, and copied from one to others. */
export type PairChange = {
  law?: Partial<PairUse["law"]>;
  fit?: PairUse["fit"];
  interference?: string;
  search?: string;
  contact?: string | null;
  enforcement?: Partial<PairUse["enforcement"]>;
};

/** The edit that makes a change of several pairs; what may not open cannot slide with friction. */
export function changed(rows: readonly PairRow[], { law, enforcement, ...plain }: PairChange): PatchStep[] {
  return rows.flatMap(({ pair, index }) => {
    const at = `/pairs/${index}`;
    const after = { ...pair.law, ...law };
    if (!after.may_open && after.may_slide === "friction") after.may_slide = "no";
    return [
      ...(law ? [put(`${at}/law`, after)] : []),
      ...(enforcement ? [put(`${at}/enforcement`, { ...pair.enforcement, ...enforcement })] : []),
      ...Object.entries(plain).map(([name, value]) => put(`${at}/${name}`, value)),
    ];
  });
}

/** What a pair hands on to others that are made like it. */
export const likeness = ({ pair }: PairRow): PairChange => ({
  contact: pair.contact ?? null,
  law: pair.law,
  enforcement: pair.enforcement,
  fit: pair.fit,
  interference: pair.interference,
  search: pair.search,
});

/** The edit that swaps the sides of pairs that have two. */
export const swapped = (rows: readonly PairRow[]): PatchStep[] =>
  rows
    .filter(({ pair }) => !pair.wall)
    .flatMap(({ pair, index }) => [put(`/pairs/${index}/a`, pair.b), put(`/pairs/${index}/b`, pair.a)]);

import { create } from "zustand";

import type { NamedKind } from "./items";

/** `also`: further parts that are selected with a part. `at`: where its face was picked, in the study's axes (mm). */
export type Selected = {
  kind: "study" | NamedKind;
  id: string;
  face?: string;
  copy?: number;
  at?: readonly [number, number, number];
  also?: readonly string[];
};

/** How a body can move: three translations (mm) and three turns (rad) about its middle. */
export type Swing = { body: string; motion: readonly number[] };

/**
 * A joint that is being made: faces (references) that were picked, the kind where it was chosen, and entries that differ
 * from what it would begin with.
 */
export type Joining = { faces: string[]; kind?: string; changes: Record<string, unknown> };

/** A pair that is made by hand: faces (references) of both sides, and the side that picked faces go to. */
export type Pairing = { a: string[]; b: string[]; side: "a" | "b" };

/** A part that is drawn or bent: a new one, on a face (reference) where one is named, or one that is there. */
export type DrawingOf = { kind: "drawn" | "bent"; part?: string; on?: string };

export type Sight = "hidden" | "ghost";

type Store = {
  selected: Selected;
  select: (next: Selected) => void;
  /** A face (reference) that waits for the face it is to be mated with. */
  mating: string | undefined;
  mate: (face: string | undefined) => void;
  /** Where in the document the list of faces stands to which picked faces are added while gathering goes on. */
  gathering: string | undefined;
  gather: (path: string | undefined) => void;
  /** Faces (references, one or two) that are measured while measuring goes on. */
  measured: string[] | undefined;
  measure: (faces: string[] | undefined) => void;
  /** The joint that is being made. */
  joining: Joining | undefined;
  join: (joining: Joining | undefined) => void;
  /** The pair that is being made by hand. */
  pairing: Pairing | undefined;
  pair: (pairing: Pairing | undefined) => void;
  /** The part that is being drawn or bent. */
  drawing: DrawingOf | undefined;
  draw: (drawing: DrawingOf | undefined) => void;
  /** Whether the part that is selected is moved by the pointer. */
  isMoving: boolean;
  move: (isMoving: boolean) => void;
  /** The loose motion that is shown on the stage. */
  swing: Swing | undefined;
  show: (swing: Swing | undefined) => void;
  /** Parts that are not shown, or shown through, on the bench. */
  sight: Record<string, Sight>;
  see: (sight: Record<string, Sight>) => void;
};

/** What is selected, everywhere at once. */
export const useSelection = create<Store>((set) => ({
  selected: { kind: "study", id: "" },
  select: (selected) =>
    set({
      selected,
      gathering: undefined,
      swing: undefined,
      isMoving: false,
      joining: undefined,
      pairing: undefined,
    }),
  mating: undefined,
  mate: (mating) => set({ mating, measured: undefined, gathering: undefined, joining: undefined, pairing: undefined }),
  gathering: undefined,
  gather: (gathering) =>
    set({ gathering, mating: undefined, measured: undefined, joining: undefined, pairing: undefined }),
  measured: undefined,
  measure: (measured) =>
    set({ measured, mating: undefined, gathering: undefined, joining: undefined, pairing: undefined }),
  joining: undefined,
  join: (joining) =>
    set({
      joining,
      mating: undefined,
      gathering: undefined,
      measured: undefined,
      isMoving: false,
      pairing: undefined,
    }),
  pairing: undefined,
  pair: (pairing) =>
    set({
      pairing,
      mating: undefined,
      gathering: undefined,
      measured: undefined,
      isMoving: false,
      joining: undefined,
    }),
  drawing: undefined,
  draw: (drawing) => set({ drawing }),
  isMoving: false,
  move: (isMoving) => set({ isMoving, mating: undefined, measured: undefined, gathering: undefined }),
  swing: undefined,
  show: (swing) => set({ swing }),
  sight: {},
  see: (sight) => set({ sight }),
}));

export const isSelected = (selected: Selected, kind: Selected["kind"], id: string) =>
  selected.kind === kind && (selected.id === id || (kind === "part" && !!selected.also?.includes(id)));

/**
 * What selects when work that begins now is done: unless something else was selected meanwhile, which is not taken
 * away from who looks at it.
 */
export function whenDone(): (next: Selected) => void {
  const before = useSelection.getState().selected;
  return (next) => {
    const { selected, select } = useSelection.getState();
    if (selected === before) select(next);
  };
}

/** Ids of all parts that are selected, the one that was first at the front. */
export const partsSelected = (selected: Selected): string[] =>
  selected.kind === "part" ? [selected.id, ...(selected.also ?? [])] : [];

/** What is selected when some parts are. */
export function selectionOf(parts: readonly string[]): Selected {
  const [id, ...also] = parts;
  if (id === undefined) return { kind: "study", id: "" };
  return { kind: "part", id, ...(also.length && { also }) };
}

/** What is selected after a part was taken to what is selected, or away from it where it was in. */
export function withPart(selected: Selected, id: string): Selected {
  const parts = partsSelected(selected);
  return selectionOf(parts.includes(id) ? parts.filter((p) => p !== id) : [...parts, id]);
}

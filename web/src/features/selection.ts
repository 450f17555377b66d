import { create } from "zustand";

import type { NamedKind } from "./items";

export type Selected = { kind: "study" | NamedKind; id: string; face?: string; copy?: number };

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
  /** Parts that are not shown, or shown through, on the bench. */
  sight: Record<string, Sight>;
  see: (sight: Record<string, Sight>) => void;
};

/** What is selected, everywhere at once. */
export const useSelection = create<Store>((set) => ({
  selected: { kind: "study", id: "" },
  select: (selected) => set({ selected, gathering: undefined }),
  mating: undefined,
  mate: (mating) => set({ mating, measured: undefined, gathering: undefined }),
  gathering: undefined,
  gather: (gathering) => set({ gathering, mating: undefined, measured: undefined }),
  measured: undefined,
  measure: (measured) => set({ measured, mating: undefined, gathering: undefined }),
  sight: {},
  see: (sight) => set({ sight }),
}));

export const isSelected = (selected: Selected, kind: Selected["kind"], id: string) =>
  selected.kind === kind && selected.id === id;

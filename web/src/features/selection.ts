import { create } from "zustand";

export type Selected = { kind: "study" | "part" | "pair" | "bolt" | "support" | "load" | "step"; id: string; face?: string };

type Store = {
  selected: Selected;
  select: (next: Selected) => void;
  /** A face (reference) that waits for the face it is to be mated with. */
  mating: string | undefined;
  mate: (face: string | undefined) => void;
};

/** What is selected, everywhere at once. */
export const useSelection = create<Store>((set) => ({
  selected: { kind: "study", id: "" },
  select: (selected) => set({ selected }),
  mating: undefined,
  mate: (mating) => set({ mating }),
}));

export const isSelected = (selected: Selected, kind: Selected["kind"], id: string) =>
  selected.kind === kind && selected.id === id;

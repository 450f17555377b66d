import { create } from "zustand";

export type Notice = {
  id: number;
  tone: "bad" | "good";
  text: string;
  hint?: string | undefined;
  undo?: (() => void) | undefined;
};

type Store = { notices: Notice[]; add: (notice: Omit<Notice, "id">) => void; drop: (id: number) => void };

let next = 1;

/** What has just been refused or done, until it is read. */
export const useNotices = create<Store>((set) => ({
  notices: [],
  add: (notice) => set(({ notices }) => ({ notices: [...notices.slice(-3), { ...notice, id: next++ }] })),
  drop: (id) => set(({ notices }) => ({ notices: notices.filter((n) => n.id !== id) })),
}));

/** Tells a refusal in the words of the server. */
export function tellProblem(error: unknown): void {
  const hint = error instanceof Error && "hint" in error ? String(error.hint) : undefined;
  useNotices.getState().add({ tone: "bad", text: error instanceof Error ? error.message : String(error), hint });
}

/** For what a button, switch or select sets going: a refusal reaches the user, since no field stands there to show it. */
export function tell(work: Promise<unknown>): void {
  work.catch(tellProblem);
}

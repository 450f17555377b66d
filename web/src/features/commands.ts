import { useEffect } from "react";
import { create } from "zustand";

/** Something that can be done now, wherever on the page its button stands. */
export type Command = { key: string; label: string; keys?: string; go: () => void };

type Store = { offered: Record<string, Command[]>; offer: (owner: string, commands: Command[]) => void };

const useOffered = create<Store>((set) => ({
  offered: {},
  offer: (owner, commands) => set(({ offered }) => ({ offered: { ...offered, [owner]: commands } })),
}));

/** Offer what a view can do to the command bar, as long as the view is shown. */
export function useCommands(owner: string, commands: Command[]): void {
  const offer = useOffered((s) => s.offer);
  // What a command does depends on what is shown: offered anew each time that is.
  useEffect(() => offer(owner, commands));
  useEffect(() => () => offer(owner, []), [offer, owner]);
}

/** All that the views shown now offer. */
export const useOfferedCommands = (): Command[] => Object.values(useOffered((s) => s.offered)).flat();

/** Keys that work everywhere or on the stage, and what they do: what the page of shortcuts shows. */
export const SHORTCUTS: { keys: string; does: string }[] = [
  { keys: "Ctrl K", does: "Find or do anything by its name" },
  { keys: "Ctrl Z", does: "Undo the last edit" },
  { keys: "Ctrl Shift Z", does: "Make it again" },
  { keys: "Ctrl J", does: "Show or fold what preflight found" },
  { keys: "?", does: "This page" },
  { keys: "F", does: "See everything on the stage" },
  { keys: "1", does: "Look along −z, at the front" },
  { keys: "2", does: "Look along +z, at the back" },
  { keys: "3", does: "Look along −x, at the right" },
  { keys: "4", does: "Look along −y, from above" },
  { keys: "Enter", does: "Make the entry that is typed" },
  { keys: "Escape", does: "Put the entry back as it was; close a dialogue" },
  { keys: "Arrow keys", does: "Move the play head, a drawn point, or the edge of a panel that is focused" },
];

import { Dialog } from "radix-ui";
import { useEffect, useMemo, useRef, useState } from "react";
import { useLocation } from "wouter";

import type { StudyInfo } from "@/api/client";
import { useEdits } from "@/api/hooks";
import { useUnits } from "@/api/units";

import { type Command, useOfferedCommands } from "./commands";
import { itemsOf, labelOf, type NamedKind, namedKinds } from "./items";
import { useSelection } from "./selection";
import { ShortcutsPage } from "./ShortcutsPage";

/** `detail`: shown, but not searched: what undo would take back has the names of other things in it. */
type Action = Command & { kind: string; detail?: string | null | undefined };

/** Ctrl K: reach every view, every item and the main actions by typing. */
type Props = { info: StudyInfo; onRun: () => void; onSettle: () => void };

export function CommandBar({ info, onRun, onSettle }: Props) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const chosen = useRef(false);
  const isOpen = useRef(false);
  const [showsKeys, setShowsKeys] = useState(false);
  const actions = useActions(info, onRun, onSettle, () => setShowsKeys(true));
  const found = actions.filter((a) => `${a.kind} ${a.label}`.toLowerCase().includes(text.toLowerCase())).slice(0, 12);

  const show = (wanted: boolean) => {
    if (wanted) chosen.current = false;
    isOpen.current = wanted;
    setOpen(wanted);
  };

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const isTyping = event.target instanceof HTMLElement && event.target.closest("input, textarea");
      if (event.key === "?" && !isTyping) return setShowsKeys(true);
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "k") return;
      event.preventDefault();
      show(true);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  const choose = (action: Action | undefined) => {
    if (!action) return;
    chosen.current = true;
    isOpen.current = false;
    setOpen(false);
    setText("");
    setAt(0);
    action.go();
  };

  if (showsKeys) return <ShortcutsPage onClose={() => setShowsKeys(false)} />;
  return (
    <Dialog.Root open={open} onOpenChange={show}>
      <Dialog.Trigger className="rounded-md border border-line bg-paper px-3 py-1 text-quiet hover:text-ink">
        Find or do… Ctrl K
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          // The focus goes back to the button only when nothing was chosen: it comes late, and would take the keys
          // of a bar that was opened again in the meantime.
          onCloseAutoFocus={(event) => (chosen.current || isOpen.current) && event.preventDefault()}
          className="fixed top-24 left-1/2 z-50 w-[520px] -translate-x-1/2 rounded-lg border border-line bg-paper p-2 shadow-xl"
        >
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          <input
            autoFocus
            aria-label="Find or do"
            value={text}
            placeholder="A part, a pair, a load, a view, an action"
            onChange={(e) => {
              setText(e.target.value);
              setAt(0);
            }}
            onKeyDown={(e) => {
              if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
              if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
              if (e.key !== "Enter") return;
              // What opens now and takes the focus is not pressed by the same key.
              e.preventDefault();
              choose(found[at]);
            }}
            className="w-full rounded border border-line bg-white px-3 py-1.5"
          />
          <ul className="pt-1">
            {!found.length && <li className="px-3 py-1 text-quiet">Nothing of that name.</li>}
            {found.map((action, i) => (
              <li key={action.key}>
                <button
                  type="button"
                  onClick={() => choose(action)}
                  onMouseEnter={() => setAt(i)}
                  className={`flex w-full justify-between rounded px-3 py-1 text-left ${i === at ? "bg-verdigris-pale" : ""}`}
                >
                  {action.detail ? `${action.label}: ${action.detail}` : action.label}{" "}
                  <span className="text-quiet">
                    {action.keys && <kbd className="mr-2 text-[12.5px]">{action.keys}</kbd>}
                    {action.kind}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function useActions(info: StudyInfo, onRun: () => void, onSettle: () => void, showKeys: () => void): Action[] {
  const [, go] = useLocation();
  const { select } = useSelection();
  const { undo, redo } = useEdits(info.id);
  const offered = useOfferedCommands();
  return useMemo(() => {
    const study = info.document;
    const items = (kind: NamedKind): Action[] =>
      itemsOf(study, kind).map((item) => ({
        key: `${kind}/${item.id}`,
        kind: labelOf(kind),
        label: item.name,
        go: () => {
          go(`/studies/${info.id}/bench`);
          select({ kind, id: item.id });
        },
      }));
    const view = (name: string, path: string): Action => ({ key: path, kind: "view", label: name, go: () => go(path) });
    const act = (command: Command): Action => ({ ...command, kind: "action" });
    return [
      act({ key: "run", label: "Check and run", go: onRun }),
      { ...act({ key: "undo", label: "Undo", keys: "Ctrl Z", go: () => undo.mutate() }), detail: info.undo },
      { ...act({ key: "redo", label: "Redo", keys: "Ctrl Shift Z", go: () => redo.mutate() }), detail: info.redo },
      act({ key: "settle", label: "Settle: mesh finer until verdicts stay", go: onSettle }),
      ...offered.map(act),
      act({ key: "keys", label: "Keys", keys: "?", go: showKeys }),
      act({ key: "units", label: "Units that values are read in", go: () => useUnits.getState().ask(true) }),
      view("Bench", `/studies/${info.id}/bench`),
      view("Run", `/studies/${info.id}/run`),
      view("Review", `/studies/${info.id}/review`),
      view("Ask again", `/studies/${info.id}/ask`),
      view("Shelf", "/"),
      ...namedKinds().flatMap(items),
    ];
  }, [info, go, select, undo, redo, onRun, onSettle, offered, showKeys]);
}

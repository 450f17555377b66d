import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

import { Button } from "@/ui/Button";
import { Frame } from "@/ui/Frame";

type Props = {
  title: string;
  /** What the main button does, and whether it may. */
  action: string;
  mayAct: boolean;
  onAct: () => void;
  onClose: () => void;
  children: ReactNode;
};

/** A dialogue of two columns with one thing to do at its end. */
export function Dialogue({ title, action, mayAct, onAct, onClose, children }: Props) {
  return (
    <Frame className="inset-0 m-auto flex h-fit max-h-[90vh] w-[900px] max-w-[94vw] flex-col" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-4 py-2 text-[17px] font-semibold">{title}</Dialog.Title>
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_310px] gap-4 overflow-auto px-4 py-3">{children}</div>
      <footer className="flex justify-end gap-2 border-t border-line px-4 py-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="main" disabled={!mayAct} onClick={onAct}>
          {action}
        </Button>
      </footer>
    </Frame>
  );
}

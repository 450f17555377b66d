import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

type Props = { className: string; onClose: () => void; children: ReactNode };

/** What a dialogue stands in: over the page, closed by Escape and by a press beside it. */
export function Frame({ className, onClose, children }: Props) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed z-50 rounded-lg border border-line bg-paper shadow-xl ${className}`}
        >
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

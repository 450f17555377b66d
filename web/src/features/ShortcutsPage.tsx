import { Dialog } from "radix-ui";

import { SHORTCUTS } from "./commands";

/** All keys that do something, on one page. */
export function ShortcutsPage({ onClose }: { onClose: () => void }) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-0 z-50 m-auto h-fit max-h-[90vh] w-[560px] overflow-auto rounded-lg border border-line bg-paper px-5 py-3 shadow-xl"
        >
          <Dialog.Title className="pb-2 text-[17px] font-semibold">Keys</Dialog.Title>
          <dl className="grid grid-cols-[130px_1fr] gap-y-1.5 pb-2">
            {SHORTCUTS.map(({ keys, does }) => (
              <div key={keys} className="contents">
                <dt>
                  <kbd className="rounded border border-line bg-white px-1.5 py-0.5 text-[13px]">{keys}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="rounded-md border border-line px-3 py-1 hover:bg-verdigris-pale">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

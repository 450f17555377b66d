import { Dialog } from "radix-ui";

import { Frame } from "@/ui/Frame";

import { SHORTCUTS } from "./commands";

/** All keys that do something, on one page. */
export function ShortcutsPage({ onClose }: { onClose: () => void }) {
  return (
    <Frame className="inset-0 m-auto h-fit max-h-[90vh] w-[560px] overflow-auto px-5 py-3" onClose={onClose}>
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
    </Frame>
  );
}

import { Dialog } from "radix-ui";
import { useState } from "react";

import type { SettleWanted } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Frame } from "@/ui/Frame";

type Props = { onSettle: (wanted: SettleWanted) => void; onClose: () => void };

/** Within what a study is to be settled, and how large a mesh may become. */
export function SettleDialog({ onSettle, onClose }: Props) {
  const [within, setWithin] = useState("5");
  const [budget, setBudget] = useState("200 000");
  const share = Number(within.replace("%", "").replace(",", ".")) / 100;
  const most = Math.round(Number(budget.replaceAll(" ", "")));
  const trouble = !(share > 0 && share < 1)
    ? "Give a share between 0 and 100 %."
    : !(most >= 1 && most <= 10_000_000)
      ? "Give a number of unknowns up to ten million."
      : "";
  return (
    <Frame className="inset-0 m-auto h-fit w-[460px] max-w-[94vw] p-4" onClose={onClose}>
      <Dialog.Title className="text-[17px] font-semibold">Settle the mesh question</Dialog.Title>
      <p className="py-2">
        The study is solved, meshed finer where its verdicts take it, and solved again, until no verdict&rsquo;s value
        changes by more than this, or its place is found singular.
      </p>
      <Field label="Within (%)" value={within} onCommit={(text) => Promise.resolve(setWithin(text))} />
      <Field label="Unknowns at most" value={budget} onCommit={(text) => Promise.resolve(setBudget(text))} />
      <p className="min-h-5 pt-1 text-[12.5px] text-quiet">
        {trouble || "The sizes in the study stay as they are; what is found can be kept afterwards."}
      </p>
      <footer className="flex justify-end gap-2 pt-3">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="main" disabled={trouble !== ""} onClick={() => onSettle({ within: share, budget: most })}>
          Settle
        </Button>
      </footer>
    </Frame>
  );
}

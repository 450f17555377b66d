import { Dialog } from "radix-ui";

import { quantities, useUnits } from "@/api/units";
import { type Quantity, vocabulary } from "@/api/vocabulary";
import { Frame } from "@/ui/Frame";
import { Select } from "@/ui/Select";

const MIXED = "mixed";

/** In which units values are read: one system for all of them, or mixed. */
export function UnitsPage({ onClose }: { onClose: () => void }) {
  const { chosen, choose } = useUnits();
  const { systems } = vocabulary();
  const standard = systems[0]?.name ?? "";
  const of = (quantity: Quantity) => chosen[quantity] ?? standard;
  const used = new Set(quantities().map(of));
  const [all = MIXED] = used.size === 1 ? used : [];
  const inSystem = (name: string) => Object.fromEntries(quantities().map((q) => [q, name]));
  const words = (quantity: Quantity, system: string) =>
    systems
      .find((s) => s.name === system)
      ?.units[quantity]?.map((u) => u.unit)
      .join(", ") ?? "";
  return (
    <Frame className="inset-0 m-auto h-fit max-h-[90vh] w-[460px] overflow-auto px-5 py-3" onClose={onClose}>
      <Dialog.Title className="pb-1 text-[17px] font-semibold">Units that values are read in</Dialog.Title>
      <p className="pb-2 text-quiet">Entries take any unit and stay as they are written. Files keep mm, N, MPa, s.</p>
      <Select
        label="All of them"
        value={all}
        options={[
          ...systems.map(({ name }) => ({ value: name, label: name })),
          ...(all === MIXED ? [{ value: MIXED, label: "mixed, as below" }] : []),
        ]}
        onChange={(name) => name !== MIXED && choose(inSystem(name))}
      />
      <div className="my-2 border-t border-line pt-2">
        {quantities()
          .filter((q) => new Set(systems.map((s) => words(q, s.name))).size > 1)
          .map((q) => (
            <Select
              key={q}
              label={q[0]?.toUpperCase() + q.slice(1)}
              value={of(q)}
              // Systems that have the same units for it are one choice.
              options={systems
                .filter(
                  (s, i) => s.name === of(q) || !systems.slice(0, i).some((t) => words(q, t.name) === words(q, s.name)),
                )
                .map((s) => ({ value: s.name, label: words(q, s.name) }))}
              onChange={(name) => choose({ ...chosen, [q]: name })}
            />
          ))}
      </div>
      <Dialog.Close className="rounded-md border border-line px-3 py-1 hover:bg-verdigris-pale">Close</Dialog.Close>
    </Frame>
  );
}

import { Dialog } from "radix-ui";
import { useState } from "react";

import type { RecipeInfo, StudyInfo } from "@/api/client";
import { useEdits, usePreview } from "@/api/hooks";
import { usePartLook } from "@/features/draw/usePartLook";
import { useSelection } from "@/features/selection";
import { Stage } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { Refusal } from "@/ui/Refusal";
import { Frame } from "@/ui/Frame";
import { Field } from "@/ui/Field";

type Props = { info: StudyInfo; recipes: RecipeInfo[]; onClose: () => void };

const UNITS: Record<string, string> = { length: " mm", angle: " deg" };

/** The store of recipes: choose one, set its dimensions beside a live picture, and add it to the assembly. */
export function AddPart({ info, recipes, onClose }: Props) {
  const [kind, setKind] = useState("plate");
  const [sought, setSought] = useState("");
  const [written, setWritten] = useState<Record<string, string>>({});
  const [added, setAdded] = useState<string[]>([]);
  const recipe = recipes.find((r) => r.kind === kind);
  const preview = usePreview(kind, written, info.document.space !== "solid");
  const { addPart } = useEdits(info.id);
  const { select, draw } = useSelection();
  const begin = (kind: "drawn" | "bent") => {
    onClose();
    draw({ kind });
  };
  const look = usePartLook(info);
  const fitting = recipes.filter((r) => r.spaces.includes(info.document.space));
  const offered = fitting.filter((r) => `${r.label} ${r.summary}`.toLowerCase().includes(sought.toLowerCase()));
  const add = (more: boolean) =>
    addPart.mutate(
      { kind, dimensions: written },
      {
        onSuccess: (study) => {
          const part = study.document.parts?.at(-1);
          if (part) {
            select({ kind: "part", id: part.id });
            setAdded([...added, part.name]);
          }
          if (!more) onClose();
        },
      },
    );
  const isBusy = addPart.isPending || !!preview.error || preview.isPending;

  return (
    <Frame
      className="inset-x-16 inset-y-14 grid grid-cols-[250px_minmax(0,1fr)_300px] grid-rows-[auto_minmax(0,1fr)_auto]"
      onClose={onClose}
    >
      <Dialog.Title className="col-span-3 border-b border-line px-4 py-2 text-[17px] font-semibold">
        Add a part
      </Dialog.Title>
      <nav aria-label="Recipes" className="flex min-h-0 flex-col border-r border-line p-2">
        <input
          aria-label="Find a recipe"
          placeholder="Find: pin, flange, gear…"
          value={sought}
          onChange={(e) => setSought(e.target.value)}
          className="mb-2 rounded border border-line bg-white px-2 py-1"
        />
        <div className="flex gap-1.5 pb-2">
          <Button className="flex-1" onClick={() => begin("drawn")}>
            Draw one…
          </Button>
          {info.document.space === "solid" && (
            <Button className="flex-1" onClick={() => begin("bent")}>
              Bend a bar…
            </Button>
          )}
        </div>
        <ul className="min-h-0 flex-1 overflow-auto">
          {offered.map((r) => (
            <li key={r.kind}>
              <button
                type="button"
                aria-pressed={r.kind === kind}
                onClick={() => {
                  setKind(r.kind);
                  setWritten({});
                }}
                className="w-full rounded px-2 py-1 text-left aria-pressed:bg-verdigris-pale aria-pressed:font-semibold hover:bg-panel"
              >
                {r.label}
              </button>
            </li>
          ))}
          {!offered.length && <li className="px-2 text-quiet">No recipe of that name.</li>}
        </ul>
      </nav>
      <div className="relative flex min-h-0">
        <Stage block={preview.data} look={look}>
          <p className="absolute inset-x-4 top-2">{recipe?.summary}</p>
          <Refusal
            of={preview.error}
            className="absolute inset-x-4 bottom-4 rounded border border-vermilion bg-paper px-3 py-1.5"
          />
        </Stage>
      </div>
      <div className="overflow-auto border-l border-line px-4 py-2">
        <h3 className="pb-1 text-[12px] font-semibold tracking-wide text-quiet">Dimensions</h3>
        {recipe?.dimensions.map((d) => (
          <Field
            key={`${kind}/${d.name}`}
            label={d.label}
            value={written[d.name] ?? `${d.default}${UNITS[d.kind] ?? ""}`}
            onCommit={(text) => {
              setWritten({ ...written, [d.name]: text });
              return Promise.resolve();
            }}
          />
        ))}
      </div>
      <footer className="col-span-3 flex items-center justify-end gap-3 border-t border-line px-4 py-2">
        {addPart.error && (
          <p role="alert" className="mr-auto text-vermilion">
            {addPart.error.message}
          </p>
        )}
        <span className="text-quiet">
          {added.length ? `${added.join(", ")} added. ` : ""}It is set down beside the others; join it there.
        </span>
        <Button onClick={onClose}>Cancel</Button>
        <Button disabled={isBusy} onClick={() => add(true)}>
          And another
        </Button>
        <Button tone="main" disabled={isBusy} onClick={() => add(false)}>
          Add {recipe?.label.toLowerCase()}
        </Button>
      </footer>
    </Frame>
  );
}

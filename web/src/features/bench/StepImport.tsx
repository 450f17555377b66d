import { Dialog } from "radix-ui";
import { useMemo, useRef, useState } from "react";

import type { FileSolid, FileUnit, StudyInfo } from "@/api/client";
import { useEdits, useFilePreview, useStepFile } from "@/api/hooks";
import { length, say } from "@/api/units";
import { useSelection } from "@/features/selection";
import { Stage } from "@/scene/Stage";
import { partColour } from "@/scene/ramp";
import { Button } from "@/ui/Button";
import { Refusal } from "@/ui/Refusal";
import { Frame } from "@/ui/Frame";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";

/** `onClose`: with the number of parts that were added. */
type Props = { info: StudyInfo; replacing?: string; onClose: (added: number) => void };

const AS_IT_SAYS = "-";
const UNITS: FileUnit[] = ["millimetre", "centimetre", "metre", "inch", "foot"];
const KINDS: Record<FileSolid["kind"], string> = {
  extruded: "extruded: bricks",
  revolved: "revolved: bricks",
  "free-form": "free form: tetrahedra",
};

/** What a STEP file holds, before any of it becomes a part, or takes the place of one. */
export function StepImport({ info, replacing, onClose }: Props) {
  const chooser = useRef<HTMLInputElement>(null);
  const [shown, setShown] = useState(0);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [outcome, setOutcome] = useState<string[]>();
  const read = useStepFile();
  const { addPart, replaceFile } = useEdits(info.id);
  const { select } = useSelection();
  const solids = read.data?.solids ?? [];
  const solid = solids[shown];
  const preview = useFilePreview(read.data?.name ?? "", shown, solid);
  const look = useMemo(
    () => ({
      colours: [partColour((info.document.parts ?? []).length, false)],
      looks: ["solid" as const],
      highlights: [],
      showMesh: false,
      scale: 1,
    }),
    [info.document.parts],
  );
  const wanted = solids.filter((s, i) => s.part && !left.has(i));
  const [file, setFile] = useState<File>();
  const [unit, setUnit] = useState<FileUnit>();
  const choose = (file: File | undefined, unit?: FileUnit) => {
    if (!file) return;
    setFile(file);
    setUnit(unit);
    setShown(0);
    setLeft(new Set());
    setOutcome(undefined);
    read.mutate({ file, unit });
  };
  const add = async () => {
    let last: StudyInfo | undefined;
    for (const s of wanted) last = await addPart.mutateAsync({ kind: "file", name: s.name, file: s.part });
    const part = last?.document.parts?.at(-1);
    if (part) select({ kind: "part", id: part.id });
    onClose(wanted.length);
  };
  const replace = async () => {
    if (!replacing || !solid?.part) return;
    const done = await replaceFile.mutateAsync({ part: replacing, file: solid.part });
    if (!done.unsure.length && !done.lost.length) return onClose(0);
    setOutcome([
      `${done.matched} faces were found again.`,
      ...done.unsure.map((m) => `Look at ${m.new}: taken for what was ${m.old}.`),
      ...done.lost.map((name) => `${name} is gone: what named it must name another face.`),
    ]);
  };
  const problem = read.error ?? addPart.error ?? replaceFile.error;

  return (
    <Frame
      className="inset-x-16 inset-y-14 grid grid-cols-[270px_minmax(0,1fr)_290px] grid-rows-[auto_minmax(0,1fr)_auto]"
      onClose={() => onClose(0)}
    >
      <header className="col-span-3 flex items-center gap-4 border-b border-line px-4 py-2">
        <Dialog.Title className="text-[17px] font-semibold">
          {replacing ? "Replace by a solid of a STEP file" : "Parts from a STEP file"}
        </Dialog.Title>
        <span className="min-w-0 truncate text-quiet">{read.data?.name}</span>
        <span className="mr-auto">
          {read.data && (
            <Select
              label="Its numbers are in"
              value={unit ?? AS_IT_SAYS}
              options={[
                { value: AS_IT_SAYS, label: `${read.data.unit.toLowerCase()}, as it says` },
                ...UNITS.map((value) => ({ value, label: value })),
              ]}
              onChange={(value) => choose(file, value === AS_IT_SAYS ? undefined : (value as FileUnit))}
            />
          )}
        </span>
        <input
          ref={chooser}
          type="file"
          accept=".step,.stp"
          aria-label="STEP file"
          className="hidden"
          onChange={(e) => choose(e.target.files?.[0])}
        />
        <Button
          tone={read.data ? undefined : "main"}
          disabled={read.isPending}
          onClick={() => chooser.current?.click()}
        >
          {read.data ? "Another file" : "Choose a file"}
        </Button>
      </header>
      <nav aria-label="Solids" className="min-h-0 overflow-auto border-r border-line p-2">
        {!solids.length && (
          <p className="px-2 py-1 text-quiet">
            The solids of the file are listed here. Nothing is added before you say so.
          </p>
        )}
        <ul>
          {solids.map((s, i) => (
            <li key={i} className="flex items-center gap-2">
              {!replacing && (
                <input
                  type="checkbox"
                  aria-label={`Take ${s.name}`}
                  disabled={!s.part}
                  checked={!!s.part && !left.has(i)}
                  onChange={() => {
                    const next = new Set(left);
                    if (!next.delete(i)) next.add(i);
                    setLeft(next);
                  }}
                />
              )}
              <button
                type="button"
                aria-pressed={i === shown}
                onClick={() => setShown(i)}
                className="min-w-0 flex-1 rounded px-2 py-1 text-left aria-pressed:bg-verdigris-pale hover:bg-panel"
              >
                <span className="block truncate font-semibold">{s.name}</span>
                <span className={s.part ? "block text-[12.5px] text-quiet" : "block text-[12.5px] text-vermilion"}>
                  {KINDS[s.kind]}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </nav>
      <div className="relative flex min-h-0">
        {solid && !solid.part && !solid.skin && (
          <p className="m-auto px-8 text-center text-quiet">There is no picture of a solid whose faces do not close.</p>
        )}
        {!solid && !read.isPending && !problem && (
          <p className="m-auto px-8 text-center text-quiet">
            Choose a STEP file: its solids are shown here before any is added.
          </p>
        )}
        {(solid?.part ?? solid?.skin) && <Stage block={preview.data} look={look} />}
        <>
          {read.isPending && <p className="absolute inset-x-4 top-2 text-quiet">Reading the file…</p>}
          <Refusal
            of={problem}
            className="absolute inset-x-4 top-2 rounded border border-vermilion bg-paper px-3 py-1.5"
          />
        </>
      </div>
      <div className="overflow-auto border-l border-line px-4 py-2">
        {solid && (
          <>
            <h3 className="pb-1 text-[12px] font-semibold tracking-wide text-quiet">{solid.name}</h3>
            <Fact label="Length (x)" value={length(solid.size[0])} />
            <Fact label="Depth (y)" value={length(solid.size[1])} />
            <Fact label="Height (z)" value={length(solid.size[2])} />
            <Fact label="Volume" value={say(solid.volume, "volume")} />
            <Fact label="Faces" value={String(solid.faces)} />
            {solid.notes.map((note) => (
              <p key={note} className="pt-2 text-vermilion">
                {note[0]?.toUpperCase()}
                {note.slice(1)}.
              </p>
            ))}
          </>
        )}
        {outcome?.map((line) => (
          <p key={line} role="status" className="pt-2">
            {line}
          </p>
        ))}
      </div>
      <footer className="col-span-3 flex items-center justify-end gap-3 border-t border-line px-4 py-2">
        <span className="text-quiet">
          {replacing
            ? "Faces are found again by place, size and the way they face."
            : "Parts stand where the file has them."}
        </span>
        <Button onClick={() => onClose(0)}>{outcome ? "Close" : "Cancel"}</Button>
        {replacing ? (
          <Button
            tone="main"
            disabled={!solid?.part || replaceFile.isPending || !!outcome}
            onClick={() => tell(replace())}
          >
            Replace the solid
          </Button>
        ) : (
          <Button tone="main" disabled={!wanted.length || addPart.isPending} onClick={() => tell(add())}>
            {wanted.length > 1 ? `Add ${wanted.length} parts` : "Add the part"}
          </Button>
        )}
      </footer>
    </Frame>
  );
}

function Fact({ label, value }: { label: string; value: string }) {
  return (
    <p className="flex justify-between py-0.5">
      <span>{label}</span>
      <span>{value}</span>
    </p>
  );
}

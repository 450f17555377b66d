import { Dialog } from "radix-ui";
import { type RefObject, useState } from "react";

import { type FilmOrder, type ReportOrder, type RunInfo, fetchBinary } from "@/api/client";
import { vocabulary } from "@/api/vocabulary";
import { useMeshJobs, useStopMeshJob } from "@/api/hooks";
import type { StageCamera } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Frame } from "@/ui/Frame";
import { tell } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Switch } from "@/ui/Switch";

import { type Shown, fieldsOf } from "./fields";
import { CORNERS, type Corner } from "./picture";
import { saveFile } from "./quantities";

const LINK = "text-verdigris hover:underline";
/** Frames between two increments where an animation runs smoothly. */
const SMOOTH = 5;

type Props = {
  run: RunInfo;
  shown: Shown;
  scale: number;
  isSolid: boolean;
  /** Limits of the colours, in the unit that the field is spoken in, where they were set by hand. */
  limits: [number, number] | undefined;
  isLog: boolean;
  camera: RefObject<StageCamera | null>;
  /** What a picture is called unless another title is given. */
  title: string;
  onPicture: (order: PictureOrder) => Promise<void>;
};

export type PictureOrder = { title: string; corner: Corner; width: number };

/** What leaves the program: picture, animation, report, tables, fields. */
export function HandOn({ run, shown, scale, isSolid, limits, isLog, camera, title, onPicture }: Props) {
  const [open, setOpen] = useState<"picture" | "report" | "film">();
  return (
    <Section title="To hand on">
      <p className="flex flex-wrap gap-x-4 gap-y-1">
        <button type="button" className={LINK} onClick={() => setOpen("picture")}>
          Picture
        </button>
        <button type="button" className={LINK} onClick={() => setOpen("film")}>
          Animation
        </button>
        <button type="button" className={LINK} onClick={() => setOpen("report")}>
          Report
        </button>
        <a className={LINK} href={`/api/runs/${run.id}/results.xlsx`} download>
          Tables (XLSX)
        </a>
        <a className={LINK} href={`/api/runs/${run.id}/results.vtkhdf`} download>
          Fields (VTKHDF)
        </a>
      </p>
      {open === "picture" && <PictureDialog title={title} onPicture={onPicture} onClose={() => setOpen(undefined)} />}
      {open === "report" && (
        <ReportDialog
          run={run}
          field={shown.kind === "part" ? shown.field : undefined}
          onClose={() => setOpen(undefined)}
        />
      )}
      {open === "film" && (
        <FilmDialog
          run={run}
          onClose={() => setOpen(undefined)}
          order={() => {
            const { towards, up } = camera.current?.(64) ?? {};
            const isPart = shown.kind === "part";
            return {
              field: isPart ? shown.field : "contact_pressure",
              part: isPart ? (shown.part ?? null) : null,
              limits: isPart ? (limits ?? null) : null,
              scale,
              is_log: isPart && isLog,
              is_solid: isSolid,
              towards: towards ?? null,
              up: up ?? [0, 1, 0],
            };
          }}
        />
      )}
    </Section>
  );
}

type PictureProps = Pick<Props, "title" | "onPicture"> & { onClose: () => void };

const WIDTHS = ["1280", "1920", "3840"] as const;

function PictureDialog({ title: given, onPicture, onClose }: PictureProps) {
  const [title, setTitle] = useState(given);
  const [corner, setCorner] = useState<Corner>("top left");
  const [width, setWidth] = useState<(typeof WIDTHS)[number]>("1920");
  return (
    <Frame className="top-24 left-1/2 w-[520px] -translate-x-1/2 p-5" onClose={onClose}>
      <Dialog.Title className="text-[17px] font-semibold">Picture</Dialog.Title>
      <Dialog.Description className="pb-2 text-quiet">
        The stage as it is looked at, with its legend. Labels can be dragged on the stage to where they are read best.
      </Dialog.Description>
      <Field
        label="Title"
        wide
        value={title}
        onCommit={(text) => {
          setTitle(text);
          return Promise.resolve();
        }}
      />
      <Choice
        label="It stands"
        value={corner}
        options={CORNERS.map((c) => ({ value: c, label: c }))}
        onChange={setCorner}
      />
      <Choice
        label="Width in pixels"
        value={width}
        options={WIDTHS.map((w) => ({ value: w, label: w }))}
        onChange={setWidth}
      />
      <p className="flex justify-end pt-3">
        <Button
          tone="main"
          onClick={() => {
            tell(onPicture({ title, corner, width: Number(width) }));
            onClose();
          }}
        >
          Save as PNG
        </Button>
      </p>
    </Frame>
  );
}

/** Waits for a file that the server makes, and hands it to the reader. */
function useMade(run: RunInfo, what: string, onClose: () => void) {
  const [isMaking, setMaking] = useState(false);
  const make = async (order: object, to: string) => {
    setMaking(true);
    try {
      const made = await fetchBinary(`/api/runs/${run.id}/${what}`, { ...order, to });
      saveFile(`${what}-of-run-${run.id}.${to}`, new Blob([made]));
      onClose();
    } finally {
      setMaking(false);
    }
  };
  const jobs = useMeshJobs(isMaking).data ?? [];
  const job = jobs.find((j) => j.title === `the ${what} of run ${run.id}`);
  return { make, state: { isMaking, job: isMaking ? job : undefined } };
}

function ReportDialog({ run, field, onClose }: { run: RunInfo; field: string | undefined; onClose: () => void }) {
  const [to, setTo] = useState<"pdf" | "html">("pdf");
  const [left, setLeft] = useState<string[]>([]);
  const [fields, setFields] = useState([...new Set(["von_mises", "displacement", ...(field ? [field] : [])])]);
  const [note, setNote] = useState("");
  const { make, state } = useMade(run, "report", onClose);
  const order: Omit<ReportOrder, "to"> = {
    fields,
    chapters: vocabulary()
      .chapters.map((c) => c.name)
      .filter((c) => !left.includes(c)),
    note,
  };
  const toggled = (list: string[], name: string) =>
    list.includes(name) ? list.filter((n) => n !== name) : [...list, name];
  return (
    <Frame className="top-16 left-1/2 max-h-[86vh] w-[640px] -translate-x-1/2 overflow-auto p-5" onClose={onClose}>
      <Title>Report of this run</Title>
      <p className="pb-2 text-quiet">One document: what was assumed, done and found, with pictures and plots.</p>
      <Choice
        label="As"
        value={to}
        options={[
          { value: "pdf", label: "PDF" },
          { value: "html", label: "page (HTML)" },
        ]}
        onChange={setTo}
      />
      <div className="grid grid-cols-2 gap-6 pt-2">
        <fieldset>
          <legend className="text-[12px] font-semibold text-quiet">Chapters</legend>
          {vocabulary().chapters.map(({ name, title }) => (
            <Tick key={name} label={title} isOn={!left.includes(name)} onChange={() => setLeft(toggled(left, name))} />
          ))}
        </fieldset>
        <fieldset>
          <legend className="text-[12px] font-semibold text-quiet">Fields on pictures</legend>
          <div tabIndex={0} className="max-h-72 overflow-auto">
            {fieldsOf("part").map((f) => (
              <Tick
                key={f.name}
                label={f.label}
                isOn={fields.includes(f.name)}
                onChange={() => setFields(toggled(fields, f.name))}
              />
            ))}
          </div>
        </fieldset>
      </div>
      <label className="block pt-3">
        A note on its first page
        <textarea
          className="mt-1 block h-20 w-full rounded border border-line bg-white p-2"
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      </label>
      <Buttons label="Make the report" state={state} onMake={() => tell(make(order, to))} onClose={onClose} />
    </Frame>
  );
}

type Film = Pick<FilmOrder, "field" | "part" | "limits" | "scale" | "is_solid" | "towards" | "up">;

function FilmDialog({ run, order, onClose }: { run: RunInfo; order: () => Film; onClose: () => void }) {
  const [to, setTo] = useState<"webm" | "gif">("webm");
  const [isSmooth, setSmooth] = useState(true);
  const [rate, setRate] = useState(12);
  const { make, state } = useMade(run, "film", onClose);
  return (
    <Frame className="top-24 left-1/2 w-[420px] -translate-x-1/2 p-5" onClose={onClose}>
      <Title>Animation of this run</Title>
      <p className="pb-2 text-quiet">All increments of what is shown, as it is looked at now.</p>
      <Choice
        label="As"
        value={to}
        options={[
          { value: "webm", label: "WebM" },
          { value: "gif", label: "GIF" },
        ]}
        onChange={setTo}
      />
      <Switch label="Smoothly between the increments" checked={isSmooth} onChange={setSmooth} />
      <Field
        label="Frames a second"
        value={String(rate)}
        onCommit={(text) => {
          const typed = Number(text);
          if (!(Number.isInteger(typed) && typed >= 1 && typed <= 60))
            return Promise.reject(new Error("Give a whole number from 1 to 60."));
          setRate(typed);
          return Promise.resolve();
        }}
      />
      <Buttons
        label="Make the animation"
        state={state}
        onMake={() => tell(make({ ...order(), rate, between: isSmooth ? SMOOTH : 0 }, to))}
        onClose={onClose}
      />
    </Frame>
  );
}

const Title = ({ children }: { children: string }) => (
  <Dialog.Title className="pb-1 text-[17px] font-semibold">{children}</Dialog.Title>
);

function Tick({ label, isOn, onChange }: { label: string; isOn: boolean; onChange: () => void }) {
  return (
    <label className="flex items-center gap-2 py-0.5 text-[13.5px]">
      <input type="checkbox" className="accent-verdigris" checked={isOn} onChange={onChange} />
      {label}
    </label>
  );
}

type State = ReturnType<typeof useMade>["state"];
type ButtonsProps = { label: string; state: State; onMake: () => void; onClose: () => void };

/** What can be done with what a dialogue asks for; while it is made, how far it is and a way to stop it. */
function Buttons({ label, state: { isMaking, job }, onMake, onClose }: ButtonsProps) {
  const stop = useStopMeshJob();
  return (
    <p className="flex items-center justify-end gap-3 pt-4">
      {isMaking && (
        <span role="status" className="min-w-0 flex-1 truncate">
          {job ? `${job.stage}, ${Math.round(100 * job.share)} %` : "Being made …"}
        </span>
      )}
      {job ? <Button onClick={() => stop.mutate(job.id)}>Stop it</Button> : <Button onClick={onClose}>Leave it</Button>}
      <Button tone="main" disabled={isMaking} onClick={onMake}>
        {label}
      </Button>
    </p>
  );
}

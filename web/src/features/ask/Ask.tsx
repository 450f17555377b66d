import { useState } from "react";
import { useLocation } from "wouter";

import { useFindings, useInputs, useSamples, useSeriesActions, useSeriesRuns } from "@/api/asking";
import {
  ApiProblem,
  type InputUse,
  type SampleRow,
  type SeriesInfo,
  type SeriesUse,
  type StudyInfo,
  type Sure,
} from "@/api/client";
import { useEdits } from "@/api/hooks";
import { inChosenUnits } from "@/api/units";
import { freeId, put, replace } from "@/features/bench/edits";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { duration, figure } from "@/ui/format";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { Workroom } from "@/ui/Workroom";

import { EntryPicker, Inputs, inputOf } from "./Inputs";
import { Fan, Histogram, MEANS, SampleMap, Tornado, axisOf } from "./plots";
import { Variants } from "./Variants";

const PLANS: { value: NonNullable<SeriesUse["plan"]>; label: string }[] = [
  { value: "sobol", label: "samples, more can follow" },
  { value: "latin-hypercube", label: "samples, each input evenly" },
  { value: "one-at-a-time", label: "one input at a time" },
  { value: "corners", label: "corners of the ranges" },
  { value: "grid", label: "all combinations" },
];
const NUMBERED = new Set<SeriesUse["plan"]>(["sobol", "latin-hypercube"]);
const COLUMNS: Record<string, string> = {
  pressure: "pressure",
  penetration: "penetration",
  sliding: "sliding",
  yielding: "use of strength",
  held: "held at all",
};

/** Ask again: inputs that are not known well, how sure each verdict is, what matters, and where it turns. */
export function Ask({ info }: { info: StudyInfo }) {
  const study = info.document;
  const { edit } = useEdits(info.id);
  const onEdit: Parameters<typeof Variants>[0]["onEdit"] = (patch, label) => edit.mutateAsync({ patch, label });
  const kept = study.series ?? [];
  const [chosenSeries, chooseSeries] = useState<string>();
  const at = Math.max(
    0,
    kept.findIndex((s) => s.id === chosenSeries),
  );
  const series = kept[at];
  const known = useInputs(info.id, info.revision, series);
  const runs = useSeriesRuns(info.id).data ?? [];
  const run = runs.find((r) => r.series.id === series?.id);
  const actions = useSeriesActions(info.id);
  const done = run?.progress?.done ?? 0;
  const found = useFindings(run?.id, done).data;
  const [key, setKey] = useState<string>();
  const sure = found?.verdicts.find((v) => `${v.row} ${v.column}` === key) ?? found?.verdicts[0];
  const samples = useSamples(run?.id, done, sure?.row ?? "", sure?.column ?? "").data ?? [];
  const [sample, setSample] = useState<number>();
  const seen = samples.find((s) => s.number === sample) ?? samples.find((s) => s.number === sure?.worst);

  const set = (next: Partial<SeriesUse>, label: string) =>
    onEdit([replace(`/series/${at}`, { ...series, ...next })], label);
  const begin = (input: InputUse) => {
    const id = freeId("series", kept);
    return onEdit(
      [put("/series/-", { id, name: "Scatter", inputs: [input], plan: "sobol", samples: 64, seed: 1 })],
      `Vary ${input.name}`,
    ).then(() => chooseSeries(id));
  };
  const problem = known.error instanceof ApiProblem ? `${known.error.message} ${known.error.hint}` : "";
  const isRunning = run?.status === "running";
  return (
    <Workroom
      name="ask"
      left={{
        label: "What is not known",
        size: 300,
        least: 240,
        children: (
          <div className="flex h-full flex-col">
            <div className="min-h-0 flex-1 overflow-auto px-3 py-2">
              <Section title="What is not known">
                {kept.length > 1 && (
                  <Select
                    label="Series"
                    value={series?.id ?? ""}
                    options={kept.map((s) => ({ value: s.id, label: s.name }))}
                    onChange={chooseSeries}
                  />
                )}
                {series ? (
                  <Inputs
                    study={study}
                    series={series}
                    known={known.data ?? []}
                    onChange={(inputs, label) => set({ inputs }, label)}
                  />
                ) : (
                  <>
                    <p className="py-1">
                      Friction, preload, fits and loads are never known exactly. Say which of them scatter, and how: the
                      study is solved for many of their values.
                    </p>
                    <EntryPicker isFirst study={study} taken={[]} onPick={(entry) => tell(begin(inputOf(entry, [])))} />
                  </>
                )}
              </Section>
              {series && (
                <Section title="How it is asked">
                  <Select
                    label="Plan"
                    value={series.plan ?? "sobol"}
                    options={PLANS}
                    onChange={(plan) =>
                      tell(set({ plan: plan as NonNullable<SeriesUse["plan"]> }, "Plan of the series"))
                    }
                  />
                  {NUMBERED.has(series.plan) && (
                    <Field
                      label="Samples"
                      value={String(series.samples)}
                      onCommit={(text) => set({ samples: Number(text) }, "Samples of the series")}
                    />
                  )}
                  {NUMBERED.has(series.plan) && (
                    <Field
                      label="Drawn as number"
                      value={String(series.seed)}
                      onCommit={(text) => set({ seed: Number(text) }, "Samples drawn anew")}
                    />
                  )}
                  <Field
                    label="Name"
                    wide
                    value={series.name}
                    onCommit={(name) => set({ name }, "Name of the series")}
                  />
                </Section>
              )}
            </div>
            {series && (
              <footer className="border-t border-line px-3 py-2">
                {problem && (
                  <p role="alert" className="py-1 text-[12.5px] text-vermilion">
                    {problem}
                  </p>
                )}
                <div className="flex flex-wrap gap-1.5">
                  <Button
                    tone="main"
                    disabled={!!problem || isRunning || actions.start.isPending}
                    onClick={() => actions.start.mutate(series.id)}
                  >
                    Ask
                  </Button>
                  {isRunning && run && <Button onClick={() => actions.stop.mutate(run.id)}>Stop</Button>}
                  {run && !isRunning && run.status !== "done" && (
                    <Button onClick={() => actions.goOn.mutate(run.id)}>Go on</Button>
                  )}
                </div>
                {run && <HowFar run={run} revision={info.revision} />}
              </footer>
            )}
          </div>
        ),
      }}
      right={{
        label: "What matters",
        size: 290,
        least: 230,
        children: (
          <div className="h-full overflow-auto px-3 py-2">
            {sure && run && (
              <>
                <WhatMatters sure={sure} />
                {seen && (
                  <OneSample
                    run={run}
                    row={seen}
                    isWorst={seen.number === sure.worst}
                    unit={sure.unit}
                    actions={actions}
                    study={info.id}
                  />
                )}
              </>
            )}
            <Variants info={info} onEdit={onEdit} />
          </div>
        ),
      }}
      bottom={{
        label: "Samples",
        size: 190,
        least: 120,
        children:
          sure && run ? (
            <div className="grid h-full grid-cols-[1fr_1fr_1.2fr] gap-3 overflow-hidden bg-paper px-3 py-2">
              <Fan rows={samples} steps={(study.steps ?? []).map((s) => s.name)} sure={sure} chosen={seen?.number} />
              <Histogram rows={samples} sure={sure} />
              <SampleTable run={run} rows={samples} sure={sure} chosen={seen?.number} onChoose={setSample} />
            </div>
          ) : (
            <p className="bg-paper px-4 py-2 text-quiet">Samples are told here, one by one, as they are solved.</p>
          ),
      }}
    >
      <div className="flex min-h-0 w-full flex-col overflow-auto bg-stage px-4 py-3">
        {!sure || !run || !found ? (
          <p className="m-auto max-w-[46ch] text-center text-quiet">
            {isRunning
              ? "The first samples are being solved."
              : series
                ? "Nothing is asked yet: press “Ask”."
                : "How sure is a verdict, when preload, friction and gaps scatter? Vary something at the left."}
          </p>
        ) : (
          <>
            <div className="flex items-baseline justify-between gap-3">
              <h2 className="text-[18px] font-semibold">
                {sure.name}, {COLUMNS[sure.column]}: {holdsText(sure)}
              </h2>
              {sure.low != null && sure.high != null && (
                <p className="shrink-0 text-quiet">
                  {share(sure.low)} to {share(sure.high)} of all, at 95 % confidence
                </p>
              )}
            </div>
            {found.failed.length > 0 && (
              <p className="text-[12.5px] text-vermilion">
                {found.failed.length} of {found.samples} samples were not solved. The verdicts of pairs and parts are of
                the others alone.
              </p>
            )}
            <ul aria-label="How sure" className="flex gap-2 overflow-x-auto py-2">
              {found.verdicts.map((v) => (
                <li key={`${v.row} ${v.column}`} className="shrink-0">
                  <VerdictCard sure={v} isOn={v === sure} onPress={() => setKey(`${v.row} ${v.column}`)} />
                </li>
              ))}
            </ul>
            <MapOf run={run} rows={samples} sure={sure} chosen={seen?.number} onChoose={setSample} />
          </>
        )}
      </div>
    </Workroom>
  );
}

const share = (value: number) => `${(value * 100).toFixed(value > 0.995 && value < 1 ? 1 : 0)} %`;

function holdsText(sure: Sure): string {
  if (sure.unsure === sure.of) return `cannot be told on this mesh in ${sure.of} of ${sure.of}`;
  return `holds in ${sure.holds} of ${sure.of}`;
}

function VerdictCard({ sure, isOn, onPress }: { sure: Sure; isOn: boolean; onPress: () => void }) {
  const parts = [
    { n: sure.holds, colour: "bg-verdigris-mid" },
    { n: sure.fails, colour: "bg-copper-mid" },
    { n: sure.unsure, colour: "bg-stone" },
  ];
  return (
    <button
      type="button"
      aria-pressed={isOn}
      onClick={onPress}
      className={`w-44 rounded-md border bg-paper px-2.5 py-1.5 text-left ${isOn ? "border-verdigris ring-1 ring-verdigris" : "border-line"}`}
    >
      <span className="block truncate" title={sure.name}>
        {sure.name}
      </span>
      <span className="block text-[12.5px] text-quiet">{COLUMNS[sure.column]}</span>
      <span className="my-1 flex h-1.5 overflow-hidden rounded bg-line">
        {parts.map(({ n, colour }) => (
          <span key={colour} className={colour} style={{ width: `${(100 * n) / Math.max(sure.of, 1)}%` }} />
        ))}
      </span>
      <span className="block text-[12.5px] text-quiet">
        {sure.unsure === sure.of ? "cannot be told" : `${sure.holds} of ${sure.of} hold`}
      </span>
    </button>
  );
}

type SeenProps = {
  run: SeriesInfo;
  rows: SampleRow[];
  sure: Sure;
  chosen: number | undefined;
  onChoose: (sample: number) => void;
};

/** The samples over two inputs, which are those that matter most until others are chosen. */
function MapOf({ run, rows, sure, chosen, onChoose }: SeenProps) {
  const [picked, setPicked] = useState<{ x?: string; y?: string }>({});
  const order = [...sure.effects.map((e) => e.input), ...run.inputs.map((i) => i.id)];
  const turned = sure.turn?.conditions.map((c) => c.input) ?? [];
  const [first = "value", second = "value"] = [...new Set([...turned, ...order])];
  const [x, y] = [picked.x ?? first, picked.y ?? (run.inputs.length > 1 ? second : "value")];
  const options = [...run.inputs.map((i) => ({ value: i.id, label: i.name })), { value: "value", label: "the value" }];
  const turn = (key: string) => sure.turn?.conditions.find((c) => c.input === key)?.value;
  return (
    <section
      aria-label="Map of the samples"
      className="flex min-h-0 flex-1 flex-col rounded-md border border-line bg-paper p-2"
    >
      <div className="flex flex-wrap items-center justify-between gap-x-4 text-[13px]">
        <div className="flex gap-4">
          <Select label="Across" value={x} options={options} onChange={(v) => setPicked({ ...picked, x: v })} />
          <Select label="Up" value={y} options={options} onChange={(v) => setPicked({ ...picked, y: v })} />
        </div>
        <span className="text-quiet">● holds × fails ○ cannot be told</span>
      </div>
      <div className="min-h-[180px] flex-1">
        <SampleMap
          rows={rows}
          x={axisOf(x, run.inputs, rows, sure)}
          y={axisOf(y, run.inputs, rows, sure)}
          chosen={chosen}
          onChoose={onChoose}
          turns={{ x: turn(x), y: turn(y) }}
        />
      </div>
    </section>
  );
}

function SampleTable({ run, rows, sure, chosen, onChoose }: SeenProps) {
  const sorted = [...rows].sort((a, b) => (b.value ?? Infinity) - (a.value ?? Infinity));
  return (
    <div className="min-h-0 overflow-auto" tabIndex={0} role="region" aria-label="All samples">
      <table className="w-full text-right text-[12.5px] tabular-nums">
        <thead className="sticky top-0 bg-paper text-quiet">
          <tr>
            <th className="px-1 text-left font-normal">sample</th>
            {run.inputs.map((i) => (
              <th key={i.id} className="max-w-16 truncate px-1 font-normal" title={i.name}>
                {i.name}
              </th>
            ))}
            <th className="px-1 font-normal">{sure.unit}</th>
            <th className="px-1 text-left font-normal">verdict</th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((row) => (
            <tr
              key={row.number}
              onClick={() => onChoose(row.number)}
              className={`cursor-pointer border-t border-line/60 ${row.number === chosen ? "bg-verdigris-pale" : ""}`}
            >
              <td className="px-1 text-left">{row.number}</td>
              {row.numbers.map((n, k) => (
                <td key={k} className="px-1">
                  {run.inputs[k]?.choices.length ? String(run.inputs[k]?.choices[n] ?? "–") : figure(n)}
                </td>
              ))}
              <td className="px-1 font-semibold">{row.value === null ? "–" : figure(row.value)}</td>
              <td className={`px-1 text-left ${row.grade === "bad" ? "text-copper" : ""}`} title={row.message}>
                {row.status === "solved" ? MEANS[row.grade] : row.status}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function WhatMatters({ sure }: { sure: Sure }) {
  const told = sure.fit ?? 0;
  return (
    <>
      <Section title={`What matters for ${COLUMNS[sure.column] ?? sure.column} (${sure.unit})`}>
        {sure.effects.length === 0 ? (
          <p className="text-[12.5px] text-quiet">Too few samples yet, or nothing scatters.</p>
        ) : (
          <>
            <Tornado sure={sure} />
            <p className="pt-1 text-[12.5px] text-quiet">
              {told < 0.3
                ? "By themselves they hardly foretell it: they act together, or something jumps."
                : `At the lowest and highest of each; by themselves they foretell ${share(told)} of the scatter.`}
            </p>
          </>
        )}
      </Section>
      <Section title="Where it turns">
        <p className="text-[13px]">
          {sure.turn?.text ??
            (sure.fails === 0
              ? "It fails in no sample."
              : sure.holds === 0
                ? "It holds in no sample."
                : "No one or two limits tell those that fail from those that hold.")}
        </p>
      </Section>
    </>
  );
}

type SampleProps = {
  run: SeriesInfo;
  row: SampleRow;
  isWorst: boolean;
  unit: string;
  actions: ReturnType<typeof useSeriesActions>;
  study: number;
};

function OneSample({ run, row, isWorst, unit, actions, study }: SampleProps) {
  const [, go] = useLocation();
  const of = { series: run.id, sample: row.number };
  return (
    <Section title={`Sample ${row.number}${isWorst ? ", the worst" : ""}`}>
      {run.inputs.map((input, k) => (
        <Row key={input.id} label={input.name}>
          {input.choices.length
            ? String(input.choices[row.numbers[k] ?? -1] ?? "–")
            : `${figure(row.numbers[k] ?? 0)} ${input.unit}`}
        </Row>
      ))}
      <Row label={MEANS[row.grade]}>{row.value === null ? "–" : `${figure(row.value)} ${unit}`}</Row>
      {row.told && <p className="text-[12.5px]">{inChosenUnits(row.told)}</p>}
      {row.message && <p className="text-[12.5px] text-vermilion">{row.message}</p>}
      <div className="flex gap-1.5 pt-1.5">
        <Button
          disabled={actions.open.isPending}
          onClick={() => actions.open.mutate(of, { onSuccess: () => go(`/studies/${study}/run`) })}
        >
          Open as run
        </Button>
        <Button
          disabled={actions.keep.isPending}
          onClick={() => actions.keep.mutate({ ...of, name: `Sample ${row.number} of ${run.series.name}` })}
        >
          Keep as variant
        </Button>
      </div>
    </Section>
  );
}

function HowFar({ run, revision }: { run: SeriesInfo; revision: number }) {
  const { done = 0, of = 0, workers = 0, left, trouble } = run.progress ?? {};
  return (
    <div className="pt-2 text-[12.5px] text-quiet" data-testid="how-far" data-status={run.status}>
      <div className="flex h-1.5 overflow-hidden rounded bg-line">
        <span className="bg-verdigris" style={{ width: `${of ? (100 * done) / of : 0}%` }} />
      </div>
      <p className="pt-1">
        {done} of {of} samples{run.status === "running" && `, ${workers} workers`}
        {run.status === "running" && left != null && `, about ${duration(left)} left`}
        {run.status === "stopped" && ", stopped"}
      </p>
      {trouble && <p className="text-copper">{trouble}</p>}
      {run.status === "failed" && <p className="text-vermilion">{run.message}</p>}
      {run.revision !== revision && (
        <p>
          Asked of r{run.revision}; the study is at r{revision} now.
        </p>
      )}
    </div>
  );
}

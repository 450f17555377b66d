import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";

import type { Findings, InputInfo, SampleRow, SeriesInfo, SeriesUse, StudyDocument } from "@/api/client";
import { choose, enter, press } from "@/tests/controls";
import { STUDY, applied, objections } from "@/tests/document";
import { type Exchange, answering, studyAt, withCache } from "@/tests/server";

import { Ask } from "./Ask";
import { entriesOf } from "./entries";

afterEach(cleanup);

const SERIES: SeriesUse = {
  id: "series",
  name: "Scatter",
  plan: "sobol",
  samples: 4,
  seed: 1,
  inputs: [
    { id: "mu", name: "µ", paths: ["/pairs/seat/law/mu"], spread: { kind: "even", low: 0.1, high: 0.2, count: 5 } },
    {
      id: "pull",
      name: "Pull",
      paths: ["/loads/pull/values/pull"],
      spread: { kind: "normal", low: "90 %", high: "110 %", count: 5 },
    },
  ],
};
const INPUTS: InputInfo[] = [
  { id: "mu", name: "µ", now: 0.15, unit: "", ends: [0.1, 0.2], choices: [] },
  { id: "pull", name: "Pull", now: 30, unit: "kN", ends: [27, 33], choices: [] },
];
const RUN: SeriesInfo = {
  id: 7,
  study_id: 1,
  revision: 1,
  series: SERIES,
  inputs: INPUTS,
  status: "done",
  message: "",
  progress: { done: 4, of: 4, workers: 2, left: 0, trouble: "" },
  created: "2026-01-01T00:00:00Z",
  ended: null,
};
const row = (number: number, mu: number, pull: number, value: number, grade: SampleRow["grade"]): SampleRow => ({
  number,
  values: { mu, pull: `${pull} kN` },
  numbers: [mu, pull],
  status: "solved",
  message: "",
  seconds: 1,
  course: [value / 2, value],
  value,
  grade,
  told: grade === "bad" ? "Half of it is open." : "Stays shut.",
});
const ROWS = [
  row(0, 0.11, 28, 40, "good"),
  row(1, 0.19, 29, 44, "watch"),
  row(2, 0.12, 32, 90, "bad"),
  row(3, 0.15, 30, 50, "unsure"),
];
const FOUND: Findings = {
  samples: 4,
  solved: 4,
  failed: [],
  verdicts: [
    {
      ...{ row: "seat", column: "pressure", step: 1, name: "Seat", unit: "MPa", holds: 2, fails: 1, unsure: 1, of: 4 },
      ...{ low: 0.1, high: 0.99, least: 40, middle: 47, most: 90, worst: 2, fit: 0.9 },
      effects: [{ input: "pull", name: "Pull", low: -20, high: 25 }],
      turn: {
        conditions: [{ input: "pull", name: "Pull", side: "above", value: 31, unit: "kN" }],
        ...{ fails_there: 1, fails: 1, holds_there: 0, holds: 2 },
        text: "Fails where Pull is above 31 kN: 1 of 1 that fail, 0 of 2 that hold.",
      },
    },
    {
      ...{
        row: "lug",
        column: "yielding",
        step: 1,
        name: "Lug",
        unit: "of yield",
        holds: 4,
        fails: 0,
        unsure: 0,
        of: 4,
      },
      ...{ low: 0.4, high: 1, least: 0.1, middle: 0.2, most: 0.3, worst: 1, fit: null, effects: [], turn: null },
    },
  ],
};

/** The page of a study whose edits are kept here; what was asked of the server, and the study as it stands then. */
function ask(document: Partial<StudyDocument>, runs: SeriesInfo[]) {
  const state = { study: studyAt(1, { ...STUDY, ...document }) };
  const answers: [RegExp, (asked: Exchange) => unknown][] = [
    [/\/inputs$/, () => INPUTS],
    [/\/studies\/1\/series$/, () => runs],
    [/\/findings$/, () => FOUND],
    [/\/samples$/, () => ROWS],
    [
      /\/variants$/,
      () => [{ id: "dry", name: "Dry", note: "", changes: [], misfit: "there is no 'seat'.", where: "" }],
    ],
    [/\/start$/, () => ({ ...RUN, status: "running" })],
    [
      /\/studies\/1$/,
      ({ body }) => {
        const { patch } = body as { patch: Parameters<typeof applied>[1] };
        state.study = {
          ...state.study,
          revision: state.study.revision + 1,
          document: applied(state.study.document, patch),
        };
        return state.study;
      },
    ],
  ];
  const asked = answering((one) => ({ body: answers.find(([path]) => path.test(one.path))?.[1](one) ?? {} }));
  const { cache, Wrapper } = withCache([state.study]);
  const Page = () => <Ask info={state.study} />;
  const view = render(<Page />, { wrapper: Wrapper });
  cache.getQueryCache().subscribe((event) => {
    if (event.type === "updated" && (event.query.queryKey as unknown[])[0] === "study") view.rerender(<Page />);
  });
  return { state, asked };
}

test("every number of the study can be varied, and no name", () => {
  const entries = entriesOf(STUDY);
  const paths = entries.map((e) => e.path);
  expect(new Set(paths).size).toBe(paths.length);
  for (const path of [
    "/pairs/seat/law/mu",
    "/materials/steel/young",
    "/parts/lug/mesh/size",
    "/loads/pull/values/pull",
  ])
    expect(paths).toContain(path);
  expect(paths.filter((p) => /\/(id|name)$/.test(p))).toEqual([]);
  expect(entries.find((e) => e.path === "/pairs/seat/law/mu")?.text).toMatch(/: friction coefficient µ$/);
});

test("an entry is found by its words and varied, in whatever manner it scatters", async () => {
  const { state } = ask({ series: [] }, []);
  await userEvent.type(screen.getByRole("searchbox", { name: "Vary another entry" }), "law mu");
  await userEvent.click(within(screen.getByRole("list", { name: "Entries found" })).getAllByRole("button")[0]!);
  await waitFor(() => expect(state.study.document.series).toHaveLength(1));
  const { name } = state.study.document.series![0]!.inputs[0]!;
  await screen.findByRole("region", { name });
  await enter(`${name}, lowest`, "0,1");
  await waitFor(() => expect(state.study.document.series![0]!.inputs[0]!.spread).toMatchObject({ low: 0.1 }));
  for (const [kind, made] of [
    ["most likely at", { kind: "triangular", low: 0.1 }],
    ["mostly in the middle", { kind: "normal", low: 0.1 }],
    ["one of", { kind: "listed" }],
  ] as const) {
    await choose(`${name}, how it scatters`, kind);
    await waitFor(() => expect(state.study.document.series![0]!.inputs[0]!.spread).toMatchObject(made));
    expect(objections(state.study.document)).toEqual([]);
  }
  await enter(`${name}, values`, "0.1; 0.2; 0.3");
  await waitFor(() =>
    expect(state.study.document.series![0]!.inputs[0]!.spread).toMatchObject({ values: [0.1, 0.2, 0.3] }),
  );
  await choose("Plan", "one input at a time");
  await waitFor(() => expect(state.study.document.series![0]!.plan).toBe("one-at-a-time"));
  await choose(`${name}, how it scatters`, "anything between");
  await enter(`${name}, in so many steps`, "7");
  await waitFor(() => expect(state.study.document.series![0]!.inputs[0]!.spread).toMatchObject({ count: 7 }));
  await choose("Plan", "samples, each input evenly");
  await enter("Samples", "80");
  await enter("Drawn as number", "5");
  await waitFor(() => expect(state.study.document.series![0]).toMatchObject({ samples: 80, seed: 5 }));
  await press(`${name}, more`);
  await userEvent.type(screen.getByRole("searchbox", { name: `${name}, together with` }), "law mu");
  await userEvent.click(within(screen.getByRole("list", { name: "Entries found" })).getAllByRole("button")[0]!);
  await waitFor(() => expect(state.study.document.series![0]!.inputs[0]!.paths).toHaveLength(2));
  await press(`Without ${state.study.document.series![0]!.inputs[0]!.paths[0]!.slice(1)}`);
  await waitFor(() => expect(state.study.document.series![0]!.inputs[0]!.paths).toHaveLength(1));
  await enter(`${name}, called`, "Grip");
  await screen.findByRole("region", { name: "Grip" });
  expect(objections(state.study.document)).toEqual([]);
  await enter("Name", "Friction");
  await waitFor(() => expect(state.study.document.series![0]!.name).toBe("Friction"));
});

test("samples tell how sure a verdict is, what matters, where it turns, and are looked at one by one", async () => {
  const { asked, state } = ask(
    {
      series: [SERIES],
      variants: [
        { id: "dry", name: "Dry", note: "", changes: [{ op: "replace", path: "/pairs/seat/law/mu", value: 0.3 }] },
      ],
    },
    [RUN],
  );
  expect((await screen.findByRole("heading", { level: 2 })).textContent).toBe("Seat, pressure: holds in 2 of 4");
  expect(screen.getByText("10 % to 99 % of all, at 95 % confidence")).toBeTruthy();
  expect(screen.getByText(/Fails where Pull is above 31 kN/)).toBeTruthy();
  expect(within(screen.getByRole("list", { name: "What matters" })).getByText("−20.0 … +25.0")).toBeTruthy();
  const map = await screen.findByRole("group", { name: "Samples" });
  await waitFor(() => expect(within(map).getAllByRole("button")).toHaveLength(4));
  expect(within(map).getByRole("button", { name: "Sample 2, fails" })).toBeTruthy();
  expect(within(map).getByRole("button", { name: "Sample 3, cannot be told" })).toBeTruthy();
  // The worst is told first; another when it is pressed.
  expect(screen.getByText("Half of it is open.")).toBeTruthy();
  await userEvent.click(within(map).getByRole("button", { name: "Sample 1, holds" }));
  expect(screen.getByRole("heading", { name: "Sample 1" })).toBeTruthy();
  expect(screen.getByText("Stays shut.")).toBeTruthy();
  await press("Keep as variant");
  await press("Open as run");
  expect(asked.filter((a) => a.method === "POST").map((a) => a.path)).toEqual(
    expect.arrayContaining(["/api/series/7/samples/1/variant", "/api/series/7/samples/1/run"]),
  );
  await press(/^Lug/);
  expect(screen.getByRole("heading", { level: 2 }).textContent).toBe("Lug, use of strength: holds in 4 of 4");
  expect(screen.getByText("It fails in no sample.")).toBeTruthy();
  await enter("Note on Dry", "as delivered");
  await enter("Name of Dry", "Bare");
  await waitFor(() => expect(state.study.document.variants![0]).toMatchObject({ name: "Bare", note: "as delivered" }));
  // A variant that does not fit says so, and cannot be run.
  expect(screen.getByText(/Does not fit the study any more: there is no 'seat'/)).toBeTruthy();
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Run it" }).disabled).toBe(true);
});

import { cleanup, render, screen, within } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import type { RunInfo } from "@/api/client";
import type { Mirrors } from "@/scene/mirrors";
import { ViewTie } from "@/scene/viewTie";
import type { Stage3D } from "@/scene/Stage3D";
import { choose, enter, press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { SUMMARY, runOf } from "@/tests/runs";
import { answering, emptyScene, withCache } from "@/tests/server";

import { Beside } from "./Beside";
import { Flow } from "./Flow";
import { ToolButtons } from "./ToolButtons";
import { useTools } from "./useTools";

afterEach(cleanup);

function Buttons(props: { isOfParts: boolean; isSection: boolean; halves?: Mirrors }) {
  const tools = useTools();
  return (
    <>
      <ToolButtons tools={tools} halves={props.halves} middle={40} hasSeveral {...props} />
      <output>
        {JSON.stringify([
          tools.tool,
          tools.level,
          tools.mirrors,
          tools.isSolid,
          tools.isDirected,
          tools.showsStart,
          tools.isBeside,
          tools.ring,
        ])}
      </output>
    </>
  );
}
const state = () => JSON.parse(screen.getByRole("status").textContent ?? "") as unknown[];
const names = () => screen.getAllByRole("button").map((b) => b.textContent);

test("what can be seen more of parts is offered where there is more of it", async () => {
  render(<Buttons isOfParts isSection={false} halves={[true, false, false]} />);
  expect(names()).toEqual([
    "pin",
    "path",
    "extremes",
    "before",
    "directions",
    "singular",
    "surface",
    "mirror x",
    "beside",
  ]);
  await press("path");
  await press("surface");
  await press("mirror x");
  await press("directions");
  await press("before");
  expect(state()).toEqual(["path", 40, [true, false, false], false, true, true, false, null]);
  await press("surface");
  await press("path");
  expect(state().slice(0, 2)).toEqual(["choose", null]);
});

test("one sector is seen as the ring that it is of", async () => {
  render(<Buttons isOfParts isSection={false} />);
  await choose("Repeated about", "ring about z");
  await enter("Sectors", "1");
  expect((await screen.findByRole("alert")).textContent).toContain("“1” is no number of sectors.");
  await enter("Sectors", "12");
  expect(state().at(-1)).toEqual({ axis: 2, count: 12 });
});

test("a section is seen as its solid, a pair by its friction", async () => {
  render(<Buttons isOfParts isSection />);
  expect(names()).toEqual(["pin", "path", "extremes", "before", "directions", "singular", "solid", "beside"]);
  await press("solid");
  await press("beside");
  expect(state().slice(3)).toEqual([true, false, false, true, null]);
  cleanup();
  render(<Buttons isOfParts={false} isSection />);
  expect(names()).toEqual(["pin", "extremes", "arrows", "beside"]);
});

test("beside stands the run before, at the increment that is nearest in time", async () => {
  const runs = [runOf(5, "solved"), runOf(3, "solved")].map((r): RunInfo => ({ ...r, increments: 3, name: "" }));
  const asked = answering(({ path }) => {
    if (path.endsWith("/document")) return { body: { document: STUDY, amounts: {} } };
    if (path.endsWith("/history"))
      return { body: [0.4, 0.8, 1.6].map((t) => ({ ...SUMMARY, step: Math.floor(t), time: t % 1 })) };
    if (path.endsWith("/changes")) return { body: ["µ 0.1 → 0.2.", "a.", "b.", "c."] };
    return { body: emptyScene() };
  });
  const { Wrapper } = withCache();
  const seen = vi.fn();
  render(
    <Beside
      onSeen={seen}
      runs={runs}
      run={runs[0]!}
      time={0.9}
      shown={{ kind: "part", part: undefined, field: "von_mises" }}
      scale={1}
      limits={undefined}
      isSolid={false}
      mirrors={[false, false, false]}
      tie={new ViewTie()}
    />,
    { wrapper: Wrapper },
  );
  const beside = within(screen.getByRole("group", { name: "Beside" }));
  expect(await beside.findByText(/increment 2/)).toBeTruthy();
  expect(asked.filter((a) => a.path.includes("/runs/")).every((a) => a.path.includes("/runs/3"))).toBe(true);
  // What is other there, and which increment of which run it is: the ledger tells both.
  expect((await beside.findAllByRole("listitem")).map((li) => li.textContent)).toEqual([
    "µ 0.1 → 0.2.",
    "a.",
    "b.",
    "and 1 more",
  ]);
  expect(seen).toHaveBeenLastCalledWith({ run: 3, increment: 1 });
  await choose("Run beside", "run 5, r1");
  expect(asked.some((a) => a.path.includes("/runs/5/history"))).toBe(true);
  expect(seen).toHaveBeenLastCalledWith(undefined);
});

test("the flow of force says what goes through each pair in place of its law", () => {
  const { Wrapper } = withCache();
  const pair = STUDY.pairs![0]!.id;
  const through = { ...SUMMARY.pairs.seat!, force: [3000, 0, 4000] as [number, number, number] };
  render(<Flow study={STUDY} now={{ ...SUMMARY, pairs: { [pair]: through } }} />, { wrapper: Wrapper });
  expect(document.querySelector(`[data-pair="${pair}"]`)?.textContent).toBe("5.00 kN");
});

test("stages that are tied follow the one that is turned, and do not turn it back", () => {
  const turned: string[] = [];
  const tie = new ViewTie();
  const stage = (name: string) => {
    const made = {
      name,
      lookAs: (lead: { name: string }) => {
        turned.push(`${name} as ${lead.name}`);
        tie.turned(made as unknown as Stage3D);
      },
    };
    return made as unknown as Stage3D;
  };
  const [one, other] = [stage("one"), stage("other")];
  tie.join(one);
  tie.join(other);
  expect([tie.leadOf(one), tie.leadOf(other)]).toEqual([undefined, one]);
  tie.turned(other);
  tie.leave(one);
  tie.turned(other);
  expect(turned).toEqual(["other as one", "one as other"]);
});

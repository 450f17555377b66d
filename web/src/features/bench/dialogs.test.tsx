import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { FileSolid, StepFile } from "@/api/client";
import { useSelection } from "@/features/selection";
import { choose, enter, press } from "@/tests/controls";
import { STUDY } from "@/tests/document";
import { RECIPES } from "@/tests/inspect";
import { type Exchange, answering, emptyScene, studyAt, withCache } from "@/tests/server";

import { AddPart } from "./AddPart";
import { StepImport } from "./StepImport";

beforeEach(() => {
  useSelection.setState({ selected: { kind: "study", id: "" } });
});
afterEach(cleanup);

const refused = (message: string, hint = "") => ({ status: 422, body: { code: "input", message, where: "", hint } });
const PICTURE = { body: emptyScene() };
/** Where pictures were asked for. */
const pictures = (asked: Exchange[]) => asked.filter((a) => /preview|skins/.test(a.path));
const posts = (asked: Exchange[], end: string) => asked.filter((a) => a.method === "POST" && a.path.endsWith(end));

test("a recipe is found by what it is, its dimensions are set beside its picture, and it is added", async () => {
  const asked = answering(({ method }) => (method === "POST" ? { body: studyAt(2, STUDY) } : PICTURE));
  const close = vi.fn();
  const { Wrapper } = withCache([studyAt(1, STUDY)]);
  render(<AddPart info={studyAt(1, STUDY)} recipes={RECIPES} onClose={close} />, { wrapper: Wrapper });
  await userEvent.type(screen.getByLabelText("Find a recipe"), "head");
  expect(screen.queryByRole("button", { name: "Lug" })).toBeNull();
  await press("Bolt");
  expect(screen.getByLabelText<HTMLInputElement>("Diameter").value).toBe("1 mm");
  await enter("Diameter", "0.5 in");
  await waitFor(() => {
    const last = pictures(asked).at(-1);
    expect([last?.path, last?.query.get("dimensions")]).toEqual(["/api/recipes/bolt/preview", '{"diameter":"0.5 in"}']);
  });
  await waitFor(() => expect(screen.getByRole<HTMLButtonElement>("button", { name: "Add bolt" }).disabled).toBe(false));
  await press("Add bolt");
  await waitFor(() => expect(close).toHaveBeenCalled());
  const sent = posts(asked, "/parts")[0];
  expect(sent?.body).toEqual({ name: "Part", kind: "bolt", dimensions: { diameter: "0.5 in" } });
  expect(sent?.query.get("base_revision")).toBe("1");
  expect(useSelection.getState().selected).toEqual({ kind: "part", id: "beam" });
});

test("a plane study is offered what has a section, and shows that", async () => {
  const asked = answering(() => PICTURE);
  const plane = studyAt(1, { ...STUDY, space: "plane-strain" });
  const { Wrapper } = withCache([plane]);
  render(<AddPart info={plane} recipes={RECIPES} onClose={vi.fn()} />, { wrapper: Wrapper });
  const recipes = within(screen.getByRole("navigation", { name: "Recipes" }));
  // What is drawn has a section too; a bar that is bent has none.
  expect(recipes.getAllByRole("button").map((b) => b.textContent)).toEqual(["Draw one…", "Plate"]);
  await waitFor(() => expect(pictures(asked).at(-1)?.query.get("section")).toBe("true"));
});

test("a recipe that cannot be made says why and is not added; another one begins anew", async () => {
  answering(({ path }) =>
    path.includes("/bolt/") ? refused("the pin is wider than its head.", "Take a larger head.") : PICTURE,
  );
  const { Wrapper } = withCache();
  render(<AddPart info={studyAt(1, STUDY)} recipes={RECIPES} onClose={vi.fn()} />, { wrapper: Wrapper });
  await press("Bolt");
  expect((await screen.findByRole("alert")).textContent).toBe("the pin is wider than its head. Take a larger head.");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Add bolt" }).disabled).toBe(true);
  await enter("Diameter", "3 mm");
  await press("Lug");
  await press("Bolt");
  expect(screen.getByLabelText<HTMLInputElement>("Diameter").value).toBe("1 mm");
  await userEvent.type(screen.getByLabelText("Find a recipe"), "turbine");
  expect(screen.getByText("No recipe of that name.")).toBeTruthy();
});

const solid = (name: string, more: Partial<FileSolid> = {}): FileSolid => ({
  name,
  size: [120, 40, 8],
  volume: 36_000,
  kind: "extruded",
  faces: 9,
  notes: [],
  part: { name: "joint.step", digest: "0".repeat(64), solid: 0, shape: null, content: `sha256:${"1".repeat(64)}` },
  skin: null,
  ...more,
});
const FILE: StepFile = {
  name: "joint.step",
  unit: "Millimetre",
  solids: [
    solid("Lug"),
    solid("Cover", { kind: "free-form", skin: "abc-1" }),
    solid("Shell", { kind: "free-form", part: null, notes: ["it cannot be meshed: its faces do not close"] }),
  ],
};

function importing(answer: (asked: Exchange) => { status?: number; body: unknown } | undefined, replacing?: string) {
  const asked = answering((one) => {
    if (pictures([one]).length) return PICTURE;
    return answer(one) ?? { body: one.path === "/api/geometry" ? FILE : studyAt(2, STUDY) };
  });
  const close = vi.fn();
  const { Wrapper } = withCache([studyAt(1, STUDY)]);
  render(<StepImport info={studyAt(1, STUDY)} replacing={replacing} onClose={close} />, { wrapper: Wrapper });
  fireEvent.change(screen.getByLabelText("STEP file"), { target: { files: [new File(["{}"], "joint.step")] } });
  return { asked, close };
}

test("the solids of a file are looked at, and those that are wanted become parts one after another", async () => {
  const { asked, close } = importing(() => undefined);
  await screen.findByText("millimetre, as it says");
  expect(screen.getByLabelText<HTMLInputElement>("Take Shell").disabled).toBe(true);
  await press(/^Cover/);
  await waitFor(() => expect(pictures(asked).at(-1)?.path).toBe("/api/geometry/skins/abc-1"));
  await press(/^Shell/);
  expect(screen.getByText("It cannot be meshed: its faces do not close.")).toBeTruthy();
  expect(screen.getByText("There is no picture of a solid whose faces do not close.")).toBeTruthy();
  await press("Add 2 parts");
  await waitFor(() => expect(close).toHaveBeenCalled());
  expect(posts(asked, "/parts").map((a) => [(a.body as { name: string }).name, a.query.get("base_revision")])).toEqual([
    ["Lug", "1"],
    ["Cover", "2"],
  ]);
  expect(useSelection.getState().selected).toEqual({ kind: "part", id: "beam" });
});

test("the numbers of a file are taken for another unit when that was meant", async () => {
  const { asked } = importing(() => undefined);
  await screen.findByText("millimetre, as it says");
  await choose("Its numbers are in", "inch");
  const units = () => asked.filter((a) => a.path === "/api/geometry").map((a) => a.query.get("unit"));
  await waitFor(() => expect(units()).toEqual([null, "inch"]));
});

test("a solid that is left is not added, and a file that cannot be read says so", async () => {
  const { asked } = importing(() => undefined);
  await userEvent.click(await screen.findByLabelText("Take Lug"));
  await press("Add the part");
  await waitFor(() => expect(posts(asked, "/parts")).toHaveLength(1));
  cleanup();
  importing(({ path }) => (path === "/api/geometry" ? refused("the file is cut off: its end is missing.") : undefined));
  expect((await screen.findByRole("alert")).textContent).toContain("cut off");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Add the part" }).disabled).toBe(true);
});

test("replacing a solid tells which faces to look at, and closes by itself where there are none", async () => {
  const outcome = { matched: 7, unsure: [{ old: "hole", new: "cylinder.2" }], lost: ["nose"] };
  const answers = [{ body: { study: studyAt(2, STUDY), ...outcome } }];
  const { asked, close } = importing(({ path }) => (path.endsWith("/file") ? answers.pop() : undefined), "lug");
  await screen.findByText("millimetre, as it says");
  expect(screen.queryByLabelText("Take Lug")).toBeNull();
  await press("Replace the solid");
  expect((await screen.findAllByRole("status")).map((s) => s.textContent)).toEqual([
    "7 faces were found again.",
    "Look at cylinder.2: taken for what was hole.",
    "nose is gone: what named it must name another face.",
  ]);
  expect(close).not.toHaveBeenCalled();
  expect(posts(asked, "/parts/lug/file")[0]?.body).toEqual(FILE.solids[0]?.part);
  cleanup();
  const whole = { body: { study: studyAt(2, STUDY), matched: 9, unsure: [], lost: [] } };
  const again = importing(({ path }) => (path.endsWith("/file") ? whole : undefined), "lug");
  await screen.findByText("millimetre, as it says");
  await press("Replace the solid");
  await waitFor(() => expect(again.close).toHaveBeenCalled());
});

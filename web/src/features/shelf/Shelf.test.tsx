import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import { Router } from "wouter";
import { memoryLocation } from "wouter/memory-location";

import { HealthBar } from "@/features/HealthBar";
import { choose } from "@/tests/controls";
import { answering, withCache } from "@/tests/server";

import { Shelf } from "./Shelf";

afterEach(cleanup);

const study = (id: number, more: object) => ({
  id,
  title: `Study ${id}`,
  machine: "",
  notes: "",
  revision: 1,
  updated: "2026-01-01T00:00:00Z",
  parts: 2,
  bolts: 0,
  bolt_parts: [],
  pairs: 1,
  run: null,
  remarks: [],
  is_current: false,
  problem: null,
  ...more,
});
const run = (status: string) => ({ id: 1, status, increments: 4, revision: 1 });

test("a study that cannot be read says so with what can be done, beside those that can", async () => {
  const { Wrapper } = withCache();
  answering(({ path }) =>
    path === "/api/studies"
      ? {
          body: [
            study(1, {
              run: run("solved"),
              problem: {
                code: "result",
                message: "the result cannot be read: it is cut off.",
                where: "",
                hint: "Run the study again.",
              },
            }),
            study(2, { run: run("solved"), is_current: true }),
            study(3, { run: run("failed") }),
          ],
        }
      : { body: [] },
  );
  render(<Shelf />, { wrapper: Wrapper });
  const card = async (title: string) => {
    const found = (await screen.findByText(title)).closest("li");
    if (!found) throw new Error("no card");
    return within(found);
  };
  const spoiled = await card("Study 1");
  expect(spoiled.getByRole("alert").textContent).toContain("it is cut off. Run the study again.");
  // No tick stands where nothing is known.
  expect(spoiled.queryByText(/every joint holds/)).toBeNull();
  expect((await card("Study 2")).getByText(/every joint holds/)).toBeTruthy();
  expect((await card("Study 3")).queryByText(/every joint holds/)).toBeNull();
});

test("what keeps the server from working is told over every view", async () => {
  const { Wrapper } = withCache();
  answering(() => ({
    body: {
      problems: ["Only 120 MB are free on the disk."],
      queue_works: true,
      running: null,
      unrecorded: [],
      free_mb: 120,
    },
  }));
  render(<HealthBar />, { wrapper: Wrapper });
  expect((await screen.findByRole("alert")).textContent).toBe("Only 120 MB are free on the disk.");
});

/** A shelf of two studies; what it asks the server for is kept. */
function shelfOfTwo() {
  const { Wrapper } = withCache();
  const asked = answering(({ path, method }) => {
    if (path === "/api/studies" && method === "GET")
      return {
        body: [study(1, { machine: "Sluice gate hoist" }), study(2, { notes: "Pin of the fork", revision: 7 })],
      };
    return { body: path === "/api/demos" ? [] : { id: 5, revision: 1, document: {} } };
  });
  const place = memoryLocation({ path: "/", record: true });
  render(
    <Router hook={place.hook}>
      <Shelf />
    </Router>,
    { wrapper: Wrapper },
  );
  return { asked, place };
}

test("studies are found by any words of title, machine and notes", async () => {
  shelfOfTwo();
  await screen.findByText("Study 2");
  const find = screen.getByRole("searchbox", { name: "Find a study" });
  await userEvent.type(find, "hoist study");
  expect(screen.getAllByRole("listitem").filter((li) => li.dataset.study)).toHaveLength(1);
  expect(screen.getByText("Study 1")).toBeTruthy();
  await userEvent.clear(find);
  await userEvent.type(find, "gearbox");
  expect(screen.getByText("No study has these words.")).toBeTruthy();
});

test("a study is duplicated, renamed at the revision that is shown, and saved", async () => {
  const { asked } = shelfOfTwo();
  const menu = async () => {
    await userEvent.click(await screen.findByRole("button", { name: /More.*for Study 2/ }));
    return screen.findByRole("menu");
  };
  await userEvent.click(within(await menu()).getByRole("menuitem", { name: "Duplicate" }));
  expect(asked.map((a) => `${a.method} ${a.path}`)).toContain("POST /api/studies/2/duplicate");
  expect(
    within(await menu())
      .getByRole("menuitem", { name: "Save as a file" })
      .getAttribute("href"),
  ).toBe("/api/studies/2/file");
  await userEvent.click(screen.getByRole("menuitem", { name: "Rename" }));
  await screen.findByLabelText("Title");
  await userEvent.clear(screen.getByLabelText("Title"));
  await userEvent.type(screen.getByLabelText("Title"), "Pin, shorter{Enter}");
  expect(asked.find((a) => a.method === "PATCH")).toMatchObject({
    path: "/api/studies/2",
    body: { base_revision: 7, patch: [{ op: "replace", path: "/title", value: "Pin, shorter" }] },
  });
});

test("a plane study is started from the shelf, and one from a STEP file opens its dialogue", async () => {
  const { asked, place } = shelfOfTwo();
  await choose("Kind of study", "axisymmetric");
  await userEvent.click(screen.getByRole("button", { name: "Start empty" }));
  await userEvent.click(screen.getByRole("button", { name: "Start from a STEP file" }));
  const bodies = asked.filter((a) => a.method === "POST").map((a) => a.body as { document: { space?: string } });
  expect(bodies.map((b) => b.document.space)).toEqual(["axisymmetric", undefined]);
  expect(place.history.at(-1)).toBe("/studies/5/bench?begin=file");
});

import { cleanup, render, screen, within } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import { HealthBar } from "@/features/HealthBar";
import { answering, withCache } from "@/testing/server";

import { Shelf } from "./Shelf";

// The pictures of studies are drawn by WebGL, which this window has not.
vi.mock("@/scene/Thumbnail", () => ({ Thumbnail: () => null }));
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

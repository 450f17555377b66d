import { act, cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { ApiProblem } from "@/api/client";

import { Notices } from "./Notices";
import { tell, useNotices } from "./notices";

beforeEach(() => useNotices.setState({ notices: [] }));
afterEach(cleanup);

test("a refusal that nobody else shows is told with its advice, until it is closed", async () => {
  render(<Notices />);
  await act(async () => {
    tell(Promise.reject(new ApiProblem("conflict", "the study has moved on.", "", "Reload it.")));
    await Promise.resolve();
  });
  expect((await screen.findByRole("alert")).textContent).toContain("the study has moved on. Reload it.");
  await userEvent.click(screen.getByRole("button", { name: "Close" }));
  expect(screen.queryByRole("alert")).toBeNull();
});

test("what was done can be undone from its notice", async () => {
  const undo = vi.fn();
  render(<Notices />);
  act(() => useNotices.getState().add({ tone: "good", text: "Lug is taken out.", undo }));
  await userEvent.click(screen.getByRole("button", { name: "Undo" }));
  expect(undo).toHaveBeenCalledOnce();
  expect(screen.queryByRole("status")).toBeNull();
});

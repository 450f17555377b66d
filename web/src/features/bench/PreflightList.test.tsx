import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { ApiProblem, type Preflight } from "@/api/client";
import { useSelection } from "@/features/selection";

import { PreflightList } from "./PreflightList";

beforeEach(() => {
  useSelection.setState({ selected: { kind: "study", id: "" } });
});
afterEach(cleanup);

const loose = (copy: number) => ({
  grade: "stop" as const,
  code: "loose",
  text: `Bolts ${copy} is loose.`,
  where: "parts/bolts",
  hint: "Add a pair.",
  body: `bolts#${copy}`,
  remedies: [],
});
const FOUND: Preflight = {
  may_run: false,
  pairs: [],
  findings: [
    loose(1),
    loose(2),
    {
      grade: "watch",
      code: "unpaired",
      text: "Lug / top and Pin / side touch.",
      where: "pairs",
      hint: "",
      remedies: [
        { does: "Make them a pair", edit: [{ op: "add", path: "/pairs/-", value: { id: "seat" } }] },
        { does: "Leave them out", edit: [{ op: "add", path: "/left_out/-", value: { a: [], b: [] } }] },
      ],
    },
    { grade: "good", code: "held", text: "Nothing is loose.", where: "steps", hint: "", remedies: [] },
  ],
};

test("a finding selects its place, copies are told once, and a remedy says what it does", async () => {
  const edit = vi.fn().mockResolvedValue(undefined);
  render(<PreflightList preflight={FOUND} isChecking={false} problem={null} onEdit={edit} />);
  const found = screen.getByRole("button", { name: /Bolts, each, is loose/ });
  expect(found.textContent).toContain("Add a pair.");
  await userEvent.click(found);
  expect(useSelection.getState().selected).toEqual({ kind: "part", id: "bolts" });
  await userEvent.click(screen.getByRole("button", { name: "Make them a pair" }));
  await userEvent.click(screen.getByRole("button", { name: "Leave them out" }));
  expect(edit.mock.calls.map((c) => c[0] as unknown)).toEqual(FOUND.findings[2]?.remedies?.map((r) => r.edit));
  expect(screen.getByRole<HTMLButtonElement>("button", { name: /Nothing is loose/ }).disabled).toBe(true);
});

test("while the study is checked anew the findings are said to be of before, and a failure is told", () => {
  const { rerender } = render(<PreflightList preflight={FOUND} isChecking problem={null} onEdit={vi.fn()} />);
  expect(screen.getByTestId("checking").textContent).toContain("Found before the last edit");
  rerender(<PreflightList preflight={undefined} isChecking problem={null} onEdit={vi.fn()} />);
  expect(screen.getByTestId("checking").textContent).toBe("Checking…");
  const problem = new ApiProblem("fault", "the server met an unexpected PicklingError.", "", "Report this.");
  rerender(<PreflightList preflight={undefined} isChecking={false} problem={problem} onEdit={vi.fn()} />);
  expect(screen.getByRole("alert").textContent).toContain(
    "could not be made: the server met an unexpected PicklingError. Report this.",
  );
  expect(screen.queryByTestId("checking")).toBeNull();
});

import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useLayoutEffect } from "react";
import { afterEach, expect, test, vi } from "vitest";

import { ApiProblem } from "@/api/client";

import { Field } from "./Field";

afterEach(cleanup);

test("an entry is committed on Enter, once, without the blanks around it", async () => {
  const commit = vi.fn().mockResolvedValue(undefined);
  render(<Field label="Height" value="20 mm" onCommit={commit} />);
  const input = screen.getByLabelText("Height");
  await userEvent.clear(input);
  await userEvent.type(input, "  25 mm {Enter}");
  expect(commit.mock.calls).toEqual([["25 mm"]]);
});

test("a refused entry stays to be mended, and says why and what to do", async () => {
  const commit = vi.fn().mockRejectedValue(new ApiProblem("bad-unit", "'25' has no unit.", "", "Write a length."));
  render(<Field label="Height" value="20 mm" onCommit={commit} />);
  const input = screen.getByLabelText<HTMLInputElement>("Height");
  await userEvent.clear(input);
  await userEvent.type(input, "25{Enter}");
  expect((await screen.findByRole("alert")).textContent).toBe("'25' has no unit. Write a length.");
  expect(input.value).toBe("25");
  expect(input.getAttribute("aria-invalid")).toBe("true");
  await userEvent.click(input);
  await userEvent.keyboard("{Escape}");
  expect(input.value).toBe("20 mm");
  expect(screen.queryByRole("alert")).toBeNull();
});

test("an entry that is as before is not committed, and a new value from outside is shown", async () => {
  const commit = vi.fn();
  const { rerender } = render(<Field label="Height" value="20 mm" onCommit={commit} />);
  await userEvent.click(screen.getByLabelText("Height"));
  await userEvent.tab();
  expect(commit).not.toHaveBeenCalled();
  rerender(<Field label="Height" value="30 mm" onCommit={commit} />);
  expect(screen.getByLabelText<HTMLInputElement>("Height").value).toBe("30 mm");
});

test("a new value is drawn together with its new label, never the old number under it", () => {
  const drawn: string[] = [];
  function Limit({ unit, value }: { unit: string; value: string }) {
    useLayoutEffect(() => {
      drawn.push(`${screen.getByLabelText<HTMLInputElement>(`Limit (${unit})`).value} ${unit}`);
    });
    return <Field label={`Limit (${unit})`} value={value} onCommit={vi.fn()} />;
  }
  const { rerender } = render(<Limit unit="MPa" value="178" />);
  rerender(<Limit unit="mm" value="0.01" />);
  expect(drawn).toEqual(["178 MPa", "0.01 mm"]);
});

import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import { force, length, useUnits } from "@/api/units";
import { choose, press } from "@/tests/controls";

import { UnitsPage } from "./UnitsPage";

afterEach(() => {
  cleanup();
  useUnits.setState({ chosen: {} });
});

const shown = (label: string) => screen.getByRole("combobox", { name: label }).textContent?.replace("▾", "");

test("all units are chosen at once, or one quantity in another system: then they are mixed", async () => {
  const close = vi.fn();
  render(<UnitsPage onClose={close} />);
  expect([shown("All of them"), shown("Force")]).toEqual(["mm, N, MPa", "kN, N"]);
  // What is the same in all systems is no choice.
  expect(screen.queryByRole("combobox", { name: "Time" })).toBeNull();
  await choose("All of them", "in, lbf, psi");
  expect([shown("Length"), shown("Force"), length(25.4)]).toEqual(["in, thou", "lbf", "1.00 in"]);
  await choose("Force", "kN, N");
  expect(shown("All of them")).toBe("mixed, as below");
  expect([length(25.4), force(2000)]).toEqual(["1.00 in", "2.00 kN"]);
  await choose("All of them", "mm, N, MPa");
  expect(length(25.4)).toBe("25.4 mm");
  await press("Close");
  expect(close).toHaveBeenCalled();
});

test("systems that read a quantity alike are one choice", async () => {
  render(<UnitsPage onClose={vi.fn()} />);
  await choose("Angle", "rad");
  expect(useUnits.getState().chosen.angle).toBe("m, N, Pa");
});

import { afterEach, expect, test } from "vitest";

import { VOCABULARY } from "@/tests/vocabulary";

import { force, inChosenUnits, length, quantities, say, spoken, standsFor, stress, useUnits } from "./units";
import { type Quantity } from "./vocabulary";

afterEach(() => useUnits.setState({ chosen: {} }));

const allIn = (system: string) =>
  useUnits.setState({ chosen: Object.fromEntries(quantities().map((q) => [q, system])) });

test("units follow the size", () => {
  expect(force(1e-9)).toBe("0 kN");
  expect(force(-999)).toBe("-999 N");
  expect(force(-1000)).toBe("-1.00 kN");
  expect(length(0)).toBe("0 mm");
  expect(length(1.234)).toBe("1.23 mm");
  expect(length(0.0348)).toBe("34.8 µm");
});

test.each<[string, Quantity, number, string]>([
  ["in, lbf, psi", "length", 25.4, "1.00 in"],
  ["in, lbf, psi", "length", 0.0254, "1.00 thou"],
  ["in, lbf, psi", "force", 4448.2216, "1000 lbf"],
  ["in, lbf, psi", "stress", 6.894757, "1000 psi"],
  ["in, lbf, psi", "moment", 112.98483, "1.00 lbf·in"],
  ["in, lbf, psi", "area", 645.16, "1.00 in²"],
  ["in, lbf, psi", "energy", 1355.817948, "1.00 ft·lbf"],
  ["mm, N, MPa", "volume", 50, "50.0 mm³"],
  ["in, lbf, psi", "angular speed", Math.PI / 30, "1.00 rpm"],
  ["m, N, Pa", "length", 250, "0.250 m"],
  ["m, N, Pa", "stress", 0.2, "200000 Pa"],
  ["m, N, Pa", "angle", Math.PI, "3.14 rad"],
])("in %s a %s of %s is %s", (system, quantity, value, said) => {
  allIn(system);
  expect(say(value, quantity)).toBe(said);
});

test("every unit of the first system has one that stands for it in the others", () => {
  for (const { name, units } of VOCABULARY.systems) {
    allIn(name);
    for (const quantity of quantities()) expect(units[quantity]?.[0]).toEqual(spoken(quantity));
    // What is shown with the one unit is what is shown with the other.
    expect(standsFor("MPa").factor * 7).toBeCloseTo(7 * (units.stress?.[0]?.factor ?? 0), 6);
  }
  allIn("in, lbf, psi");
  expect(standsFor("µm")).toEqual({ unit: "thou", factor: expect.closeTo(1 / 25.4, 9) as number });
  expect(standsFor("of yield")).toEqual({ unit: "of yield", factor: 1 });
});

test("units are mixed as people mix them, and sentences follow", () => {
  const said = "Lies 25.4 mm apart at 7 MPa, -2 kN of 3 N·m; M16 of 12 bolts, 645.16 mm².";
  expect(inChosenUnits(said)).toBe(said);
  useUnits.setState({ chosen: { length: "in, lbf, psi", area: "in, lbf, psi", force: "m, N, Pa" } });
  expect(inChosenUnits(said)).toBe("Lies 1.00 in apart at 7 MPa, -2000 N of 3 N·m; M16 of 12 bolts, 1.00 in².");
  expect(stress(7)).toBe("7.00 MPa");
});

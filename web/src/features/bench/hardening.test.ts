import { expect, test } from "vitest";

import { hardeningOf, tableText } from "./hardening";

test("a table is written and read back, also as rows pasted from a sheet", () => {
  const table = [
    { strain: 0, stress: "355 MPa" },
    { strain: 0.05, stress: "460 MPa" },
  ];
  expect(tableText({ kinematic_share: 0, table })).toBe("0: 355 MPa, 0.05: 460 MPa");
  expect(hardeningOf("0: 355 MPa, 0.05: 460 MPa", undefined)).toEqual({ kinematic_share: 0, table });
  expect(hardeningOf("0\t355 MPa\n0.05\t460 MPa", { kinematic_share: 0.5, table: [] })).toEqual({
    kinematic_share: 0.5,
    table,
  });
});

test("an empty entry takes the table away, and what is no number is left for the server to refuse", () => {
  expect(hardeningOf("  ", undefined)).toBeNull();
  expect(hardeningOf("soon: 3 MPa", undefined)).toEqual({
    kinematic_share: 0,
    table: [{ strain: "soon", stress: "3 MPa" }],
  });
});

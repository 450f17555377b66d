import { expect, test } from "vitest";

import { freeId, number } from "./edits";

test("new ids are free", () => {
  expect(freeId("hold", [])).toBe("hold");
  expect(freeId("hold", [{ id: "hold" }, { id: "hold-2" }])).toBe("hold-3");
});

test("a number may be written with a comma, and what is none goes to the server as it is", () => {
  expect(number("0,15")).toBe(0.15);
  expect(number("much")).toBe("much");
  expect(number("")).toBe("");
});

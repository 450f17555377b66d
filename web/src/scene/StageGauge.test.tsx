import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";

import { StageGauge, lengthWords, roundLength } from "./StageGauge";

afterEach(cleanup);

test.each([
  [1, 100, "100 mm"],
  [0.9, 100, "100 mm"],
  [3, 20, "20 mm"],
  [0.04, 2000, "2 m"],
  [4000, 0.02, "20 µm"],
])("at %s pixels for a mm the bar is %s mm long and says %s", (pixelsPerMm, mm, words) => {
  expect(roundLength(pixelsPerMm, 110)).toBeCloseTo(mm, 9);
  expect(lengthWords(roundLength(pixelsPerMm, 110))).toBe(words);
});

test("axes are drawn where they point, those towards the eye last", () => {
  const axes = [
    { x: 1, y: 0, away: 0.1 },
    { x: 0, y: -1, away: -0.9 },
    { x: 0, y: 0, away: 0.8 },
  ];
  render(<StageGauge gauge={{ axes, pixelsPerMm: 1 }} />);
  const picture = screen.getByRole("img", { name: "Axes of the study; the bar is 100 mm long" });
  expect([...picture.querySelectorAll("g text")].map((t) => t.textContent)).toEqual(["z", "x", "y"]);
  const up = picture.querySelectorAll("g line")[2];
  expect([up?.getAttribute("x2"), up?.getAttribute("y2")]).toEqual(["42", "12"]);
});

import { expect, test } from "vitest";

import { measureLabels } from "./MeasurePanel";

test("the two closest points are marked, one with their distance; nothing where faces touch", () => {
  const labels = measureLabels({
    figures: [],
    between: [
      [0, 0, 0],
      [3, 4, 0],
    ],
  });
  expect(labels.map((l) => l.at)).toEqual([
    [0, 0, 0],
    [3, 4, 0],
  ]);
  expect(labels[1]?.text).toBe("5.0000 mm");
  expect(measureLabels({ figures: [], between: null })).toEqual([]);
  expect(measureLabels(undefined)).toEqual([]);
});

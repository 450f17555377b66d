import { expect, test } from "vitest";

import { placeLabels } from "./labels";

test("labels that have room stand at their points", () => {
  const at = placeLabels([
    { id: "a", text: "Hoist pull 48 kN", x: 100, y: 100 },
    { id: "b", text: "Side load 6 kN", x: 100, y: 130 },
    { id: "c", text: "Far away", x: 500, y: 101 },
  ]);
  expect(at).toEqual({ a: { x: 100, y: 100 }, b: { x: 100, y: 130 }, c: { x: 500, y: 101 } });
});

test("twelve labels at one point and a neighbour beside are all legible, and none goes far", () => {
  const many = Array.from({ length: 12 }, (_, i) => ({ id: `l${i}`, text: `Load ${i} 5 kN`, x: 200, y: 300 }));
  const at = placeLabels([...many, { id: "other", text: "Other", x: 210, y: 310 }]);
  const heights = Object.values(at)
    .map((p) => p.y)
    .sort((a, b) => a - b);
  heights.slice(1).forEach((y, i) => expect(y - (heights[i] ?? 0)).toBeGreaterThanOrEqual(21));
  expect(Math.max(...heights.map((y) => Math.abs(y - 300)))).toBeLessThan(13 * 21);
});

import { expect, test } from "vitest";

import { RAMP, toColour } from "@/scene/ramp";

import { duration, figure, percent } from "./format";

test.each([
  [0, "0"],
  [119.4, "119"],
  [94.47, "94.5"],
  [9.6563, "9.66"],
  [0.00123, "0.00123"],
  [-34.8, "-34.8"],
  [2.1e-9, "2.1·10⁻⁹"],
  [3.2e8, "3.2·10⁸"],
])("figure %d is %s", (value, text) => expect(figure(value)).toBe(text));

test("shares are said in percent", () => expect(percent(0.666)).toBe("67 %"));

test("durations are said as people say them", () => {
  expect(duration(54.4)).toBe("54 s");
  expect(duration(125)).toBe("2 min 5 s");
});

test("the ramp darkens steadily, so that it reads without colour too", () => {
  const light = RAMP.map((c) => {
    const [r, g, b] = toColour(c);
    return 0.2126 * r + 0.7152 * g + 0.0722 * b;
  });
  light.slice(1).forEach((value, i) => expect(value).toBeLessThan((light[i] ?? 0) - 0.08));
});

import { readFileSync } from "node:fs";

import { expect, test } from "vitest";

import { COLOURS } from "./colours";

test("canvas and WebGL have the colours of the theme, all of them", () => {
  const theme = readFileSync(new URL("../theme.css", import.meta.url), "utf8");
  const inTheme = Object.fromEntries(
    [...theme.matchAll(/--color-([a-z-]+): (#[0-9a-f]{6})/g)].map(([, name = "", colour]) => [name, colour]),
  );
  const kebab = (name: string) => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
  expect(Object.fromEntries(Object.entries(COLOURS).map(([name, colour]) => [kebab(name), colour]))).toEqual(inTheme);
});

import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const COMPONENTS = "src/**/*.test.tsx";
const ALONE = "src/**/*.alone.test.tsx";
const SOURCE = new URL("./src", import.meta.url).pathname;
/** What draws on a graphics card or a canvas: without a browser, doubles stand in its place. */
const DOUBLES = ["@/scene/Stage", "@/scene/Thumbnail", "@/ui/CurvePlot"].map((find) => ({
  find: new RegExp(`^${find}$`),
  replacement: `${SOURCE}/tests/doubles/${find.split("/").at(-1)}.tsx`,
}));

export default defineConfig({
  plugins: [react(), tailwind()],
  test: {
    testTimeout: 30_000,
    setupFiles: ["src/tests/setup.ts", "src/tests/tables.ts"],
    // Modules are loaded once for many files, which halves the time; but not for tests that put others in their place.
    projects: [
      { extends: true, test: { name: "logic", include: ["src/**/*.test.ts"], isolate: false } },
      {
        extends: true,
        resolve: { alias: DOUBLES },
        test: { name: "components", include: [COMPONENTS], exclude: [ALONE], environment: "happy-dom", isolate: false },
      },
      { extends: true, test: { name: "alone", include: [ALONE], environment: "happy-dom" } },
    ],
  },
  resolve: { alias: { "@": SOURCE } },
  build: { chunkSizeWarningLimit: 1200 },
  server: { proxy: { "/api": "http://127.0.0.1:8321" } },
});

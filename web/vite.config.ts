import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwind()],
  test: { include: ["src/**/*.test.{ts,tsx}"], setupFiles: ["src/testing/setup.ts"], pool: "vmThreads" },
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  build: { chunkSizeWarningLimit: 1200 },
  server: { proxy: { "/api": "http://127.0.0.1:8321" } },
});

import { sveltekit } from "@sveltejs/kit/vite";
import { defineConfig } from "vitest/config";
import { carbonStyles } from "./scripts/vite/carbonStyles.js";
import { serverWorker } from "./scripts/vite/serverWorker.js";

const isolation = {
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Embedder-Policy": "require-corp",
  "Cross-Origin-Resource-Policy": "same-origin"
};

export default defineConfig({
  plugins: [carbonStyles(), sveltekit(), serverWorker()],
  worker: { format: "es" },
  server: { headers: isolation },
  build: { assetsInlineLimit: 0 },
  test: {
    include: ["src/**/*.test.ts", "tests/**/*.test.ts"],
    setupFiles: ["tests/support/equalBytes.ts"],
    maxWorkers: "100%",
    testTimeout: 120000,
    hookTimeout: 240000
  }
});

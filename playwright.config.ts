import { defineConfig } from "@playwright/test";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";

// Made by the first process that reads this file; the others get it from the environment.
process.env.WRING_E2E_DATA ??= mkdtempSync(path.join(tmpdir(), "wring-e2e-"));

/** One for each worker, with the demo in a data folder of its own. */
export const servers = [4691, 4692].map((port) => ({
  port,
  url: `http://127.0.0.1:${port}`,
  data: path.join(String(process.env.WRING_E2E_DATA), String(port))
}));

export default defineConfig({
  testDir: "tests/e2e",
  workers: servers.length,
  fullyParallel: false,
  // Machines that check the project are at times several times slower than those it is written on.
  timeout: 120000,
  expect: { timeout: 20000 },
  reporter: [["list"], ["json", { outputFile: "test-results/e2e.json" }]],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: ["--no-sandbox", "--autoplay-policy=no-user-gesture-required", "--disable-background-networking"]
    },
    trace: "off"
  },
  webServer: servers.map(({ port, url, data }) => ({
    command: "node scripts/demo.mjs",
    url,
    timeout: 180000,
    reuseExistingServer: false,
    env: {
      PORT: String(port),
      WRING_DEMO_DATA: data,
      WRING_LOG: "warn",
      WRING_MAX_BYTES: "1500000000"
    }
  }))
});

import { defineConfig } from "@playwright/test";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";

const port = 4691;
// Made by the first process that reads this file; the others get it from the environment.
process.env.WRING_E2E_DATA ??= mkdtempSync(path.join(tmpdir(), "wring-e2e-"));

export default defineConfig({
  testDir: "tests/e2e",
  workers: 1,
  fullyParallel: false,
  // Machines that check the project are at times several times slower than those it is written on.
  timeout: 120000,
  expect: { timeout: 10000 },
  reporter: [["list"], ["json", { outputFile: "test-results/e2e.json" }]],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: ["--no-sandbox", "--autoplay-policy=no-user-gesture-required", "--disable-background-networking"]
    },
    trace: "off"
  },
  webServer: {
    command: "node scripts/demo.mjs",
    url: `http://127.0.0.1:${port}`,
    timeout: 180000,
    reuseExistingServer: false,
    env: {
      PORT: String(port),
      WRING_DEMO_DATA: process.env.WRING_E2E_DATA,
      WRING_LOG: "warn",
      WRING_MAX_BYTES: "1500000000"
    }
  }
});

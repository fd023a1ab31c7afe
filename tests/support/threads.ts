// Worker threads for tests of the server's services: their bundle is made in the test's own folder.
import { symlinkSync } from "node:fs";
import path from "node:path";
import { config } from "../../src/lib/server/config";
import { bundleWorker } from "../../scripts/vite/bundle.js";

export async function useThreads(folder: string): Promise<void> {
  config.workerFile = path.join(folder, "worker", "worker.mjs");
  await bundleWorker(path.join(folder, "worker"));
  // External packages are found from here.
  symlinkSync(path.resolve("node_modules"), path.join(folder, "node_modules"));
}

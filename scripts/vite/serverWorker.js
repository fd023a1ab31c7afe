import path from "node:path";
import { build } from "esbuild";

/** Bundles the entry of the server's worker threads, in development and production alike. */
export async function bundleWorker(target) {
  await build({
    entryPoints: ["src/lib/server/jobs/worker.ts"],
    outfile: target,
    bundle: true,
    platform: "node",
    format: "esm",
    target: "node20",
    packages: "external",
    sourcemap: "inline",
    logLevel: "warning"
  });
}

export const WORKER_FILE = path.resolve("build/worker/worker.mjs");

export function serverWorker() {
  let done = false;
  return {
    name: "wring-server-worker",
    apply: (_config, env) => env.mode !== "test",
    async buildStart() {
      if (done) return;
      done = true;
      await bundleWorker(WORKER_FILE);
    }
  };
}

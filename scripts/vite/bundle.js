import path from "node:path";
import { build } from "esbuild";

/** Bundles what the server runs outside the application: the entry of its worker threads, and the demo's seeding. */
export async function bundleWorker(folder) {
  await build({
    entryPoints: { worker: "src/lib/server/jobs/worker.ts", seed: "src/demo/seed.ts" },
    outdir: folder,
    outExtension: { ".js": ".mjs" },
    bundle: true,
    splitting: false,
    platform: "node",
    format: "esm",
    target: "node20",
    packages: "external",
    alias: { $lib: path.resolve("src/lib") },
    sourcemap: "inline",
    logLevel: "warning"
  });
}

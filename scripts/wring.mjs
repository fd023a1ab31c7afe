// npm run -s wring -- …: the command line. Builds it when its sources are newer than what was built; prints nothing of its own.
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { spawn } from "node:child_process";
import { install, must, root, sourcesStamp, stampMatches } from "./prepare.mjs";

install();
must(process.execPath, ["scripts/kernels.mjs"]);
const folder = path.join(root, "build/cli");
const stamp = path.join(folder, ".stamp");
const want = sourcesStamp(["src/cli", "src/lib/core", "src/lib/server", "src/lib/api"]);
if (!stampMatches(stamp, want)) {
  const { build } = await import("esbuild");
  await build({
    entryPoints: { main: path.join(root, "src/cli/main.ts"), worker: path.join(root, "src/cli/worker.ts") },
    outdir: folder,
    outExtension: { ".js": ".mjs" },
    bundle: true,
    splitting: true,
    chunkNames: "chunks/[hash]",
    platform: "node",
    format: "esm",
    target: "node20",
    packages: "external",
    alias: { $lib: path.join(root, "src/lib") },
    logLevel: "warning"
  });
  mkdirSync(folder, { recursive: true });
  writeFileSync(stamp, want);
}
const child = spawn(process.execPath, [path.join(folder, "main.mjs"), ...process.argv.slice(2)], {
  stdio: "inherit"
});
for (const signal of /** @type {const} */ (["SIGINT", "SIGTERM"]))
  process.on(signal, () => child.kill(signal));
child.on("exit", (code) => process.exit(code ?? 1));

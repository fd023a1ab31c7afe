// npm run bench: prints one table. Absolute figures depend on the machine; the wanted ones stand beside them.
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { build, debianPackages, install, must, root } from "./prepare.mjs";

install();
build();
const { build: bundle, transform } = await import("esbuild");
const { compileModule } = await import("svelte/compiler");
/** Compiles modules with runes as the page has them. */
const runes = {
  name: "runes",
  setup(building) {
    building.onLoad({ filter: /\.svelte\.ts$/ }, async ({ path: filename }) => {
      const { code } = await transform(readFileSync(filename, "utf8"), { loader: "ts", target: "esnext" });
      return { contents: compileModule(code, { filename, generate: "client" }).js.code, loader: "js" };
    });
    building.onResolve({ filter: /^.*\.svelte$/ }, ({ path: name, resolveDir }) =>
      name.startsWith(".") || name.startsWith("$lib")
        ? {
            path: `${path.resolve(name.startsWith(".") ? resolveDir : root, name.replace("$lib", "src/lib"))}.ts`
          }
        : undefined
    );
  }
};
const out = path.join(root, "build/bench");
await bundle({
  entryPoints: [
    "core",
    "cli",
    "mix",
    "plan",
    "import",
    "deliver",
    "render",
    "session",
    "joins",
    "state",
    "page",
    "drawing",
    "history",
    "folder"
  ].map((name) => path.join(root, `bench/${name}.ts`)),
  outdir: out,
  outExtension: { ".js": ".mjs" },
  bundle: true,
  platform: "node",
  format: "esm",
  packages: "external",
  plugins: [runes],
  alias: { $lib: path.join(root, "src/lib") },
  logLevel: "warning"
});
const data = mkdtempSync(path.join(tmpdir(), "wring-bench-demo-"));
const env = { ...process.env, WRING_DATA: data };
must(process.execPath, ["build/worker/seed.mjs"], { env });
must(process.execPath, ["build/bench/core.mjs"], { env });
must(process.execPath, ["scripts/wring.mjs", "presets"], { stdio: "ignore" });
must(process.execPath, ["build/bench/cli.mjs"], { env });
must(process.execPath, ["--expose-gc", "build/bench/mix.mjs"], { env });
must(process.execPath, ["build/bench/plan.mjs"], { env });
must(process.execPath, ["build/bench/import.mjs"], { env });
must(process.execPath, ["build/bench/deliver.mjs"], { env });
must(process.execPath, ["build/bench/render.mjs"], { env });
must(process.execPath, ["build/bench/session.mjs"], { env });
must(process.execPath, ["build/bench/joins.mjs"], { env });
must(process.execPath, ["--conditions", "browser", "build/bench/state.mjs"], { env });
if (debianPackages({ chromium: "chromium" }).length === 0) {
  must(process.execPath, ["build/bench/page.mjs"], { env });
  must(process.execPath, ["build/bench/drawing.mjs"], { env });
  must(process.execPath, ["build/bench/history.mjs"], { env });
  must(process.execPath, ["build/bench/folder.mjs"], { env });
} else console.log("The browser's figures were left out: chromium is not installed.");
rmSync(data, { recursive: true, force: true });

// npm run docs: writes docs/effects.md with its pictures, docs/format.md and docs/chain.schema.json from the code.
import path from "node:path";
import { install, must, root } from "./prepare.mjs";

install();
must(process.execPath, ["scripts/kernels.mjs"]);
const { build } = await import("esbuild");
const out = path.join(root, "build/tools/docs.mjs");
await build({
  entryPoints: [path.join(root, "tools/docs.ts")],
  outfile: out,
  bundle: true,
  platform: "node",
  format: "esm",
  packages: "external",
  alias: { $lib: path.join(root, "src/lib") },
  logLevel: "warning"
});
must(process.execPath, [out]);
must(process.execPath, [
  "node_modules/prettier/bin/prettier.cjs",
  "--write",
  "--log-level",
  "warn",
  "docs/effects.md",
  "docs/format.md",
  "docs/chain.schema.json",
  "docs/presets.schema.json"
]);

// npm test: everything that is checked. Prints one line for each part and, last, the sum over all runners.
import { mkdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { spawn, spawnSync } from "node:child_process";
import { build, debianPackages, install, must, root } from "./prepare.mjs";

install();
must(process.execPath, ["scripts/kernels.mjs"]);
const missing = debianPackages({ chromium: "chromium" });
for (const [program, debian, left] of [
  ["ffmpeg", "ffmpeg", "tests of other formats than WAV"],
  ["mediainfo", "mediainfo", "checks of loudness fields by another reader"],
  ["sndfile-info", "sndfile-programs", "checks of cue points by another reader"]
])
  if (debianPackages({ [program]: debian }).length > 0)
    console.error(`${program} is not installed and could not be: ${left} are left out.`);
mkdirSync(path.join(root, "test-results"), { recursive: true });

const bin = (name) => path.join(root, "node_modules/.bin", name);
const parts = [];

/** A check that passes or fails as a whole. What it prints comes when it has ended: others run beside it. */
async function check(name, command, args) {
  let printed = "";
  const run = spawn(command, args, { cwd: root });
  for (const stream of [run.stdout, run.stderr]) stream.on("data", (data) => (printed += data));
  const good = await new Promise((resolve) => {
    run.on("error", (error) => {
      printed += `${error.message}\n`;
      resolve(false);
    });
    run.on("close", (status) => resolve(status === 0));
  });
  console.log(`\n${name}\n${printed}`);
  parts.push({ name, passed: good ? 1 : 0, failed: good ? 0 : 1 });
}

/** A runner that counts its tests in a JSON file. A runner that fails without a failed test counts as one. */
function runner(name, command, args, report, count) {
  console.log(`\n${name}`);
  const run = spawnSync(command, args, { cwd: root, stdio: "inherit" });
  let counted;
  try {
    counted = count(JSON.parse(readFileSync(path.join(root, report), "utf8")));
  } catch (error) {
    console.error(`${name}: no report (${error.message}).`);
    counted = { passed: 0, failed: 1 };
  }
  if (run.status !== 0 && counted.failed === 0) counted.failed = 1;
  if (counted.passed === 0 && counted.failed === 0) counted.failed = 1;
  parts.push({ name, ...counted });
}

await check("types", bin("svelte-kit"), ["sync"]);
async function others() {
  await check("types of components", bin("svelte-check"), [
    "--tsconfig",
    "./tsconfig.json",
    "--fail-on-warnings"
  ]);
  await check("types of scripts and server", bin("tsc"), ["-p", "tsconfig.scripts.json"]);
  await check("indexes that may miss", process.execPath, ["scripts/indexed.mjs"]);
  await check("layers", bin("depcruise"), ["src", "--config", ".dependency-cruiser.cjs"]);
  await check("unused code", bin("knip"), []);
  await check("format", bin("prettier"), ["--check", ".", "--log-level", "warn"]);
}
// Lint takes as long as all the others.
await Promise.all([check("lint", bin("eslint"), ["."]), others()]);
build();
runner(
  "unit and server tests",
  bin("vitest"),
  ["run", "--reporter=default", "--reporter=json", "--outputFile=test-results/unit.json"],
  "test-results/unit.json",
  (r) => ({
    passed: r.numPassedTests,
    failed: r.numFailedTests + r.numFailedTestSuites * (r.numFailedTests === 0 ? 1 : 0)
  })
);
if (missing.length > 0) {
  console.error(`Browser tests cannot run: ${missing.join(", ")} is not installed and could not be.`);
  parts.push({ name: "browser tests", passed: 0, failed: 1 });
} else
  runner("browser tests", bin("playwright"), ["test"], "test-results/e2e.json", ({ stats }) => ({
    passed: stats.expected,
    failed: stats.unexpected + stats.flaky
  }));

console.log("");
for (const part of parts)
  console.log(
    `${part.failed === 0 ? "ok  " : "FAIL"} ${part.name}: ${part.passed} passed, ${part.failed} failed`
  );
const sum = (key) => parts.reduce((n, part) => n + part[key], 0);
console.log(`${sum("passed")} passed, ${sum("failed")} failed`);
process.exit(sum("failed") === 0 ? 0 : 1);

// What every command does first: install what is missing, build what is out of date. Node's own modules only.
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from "node:fs";
import path from "node:path";
import { spawn, spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";

export const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "..");
const environment = { ...process.env, IBM_TELEMETRY_DISABLED: "true" };

/** Runs a program to its end; ends this one when it fails. */
export function must(command, args, options = {}) {
  const run = spawnSync(command, args, { cwd: root, stdio: "inherit", env: environment, ...options });
  if (run.error || run.status !== 0) {
    console.error(
      `${command} ${args.join(" ")} failed${run.error ? `: ${run.error.message}` : ` with status ${run.status}`}.`
    );
    process.exit(run.status || 1);
  }
}

/** Runs a program that has nothing to say but when it fails; then all that it said is shown, and this one ends. */
function quietly(command, args) {
  const run = spawnSync(command, args, { cwd: root, env: environment, encoding: "utf8" });
  if (!run.error && run.status === 0) return;
  console.error(`${run.stdout ?? ""}${run.stderr ?? ""}`);
  console.error(`${command} ${args.join(" ")} failed.`);
  process.exit(run.status || 1);
}

/** Whether a stamp file holds this value. */
export function stampMatches(file, value) {
  return existsSync(file) && readFileSync(file, "utf8") === value;
}

/** Whether someone has run `npm ci` since the lock was last changed: npm leaves its own copy of it. */
function installedByHand() {
  const own = statSync(path.join(root, "node_modules/.package-lock.json"), { throwIfNoEntry: false });
  return own !== undefined && own.mtimeMs >= statSync(path.join(root, "package-lock.json")).mtimeMs;
}

/** `npm ci` when the lock or Node changed since the last time. */
export function install() {
  const lock = createHash("sha256")
    .update(readFileSync(path.join(root, "package-lock.json")))
    .digest("hex");
  const want = `${lock} ${process.version} ${process.arch}`;
  const stamp = path.join(root, "node_modules/.wring-installed");
  if (stampMatches(stamp, want)) return;
  if (!existsSync(stamp) && installedByHand()) {
    writeFileSync(stamp, want);
    return;
  }
  console.log(
    "Installing packages (the database is compiled where no ready-made one can be had: a few minutes)…"
  );
  must("npm", ["ci", "--no-audit", "--no-fund", "--loglevel=error"]);
  writeFileSync(stamp, want);
}

function sources(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const full = path.join(folder, entry.name);
    if (entry.isDirectory()) return sources(full);
    return entry.name.endsWith(".generated.ts") || entry.name.endsWith(".test.ts") ? [] : [full];
  });
}

function hashOf(files) {
  const hash = createHash("sha256");
  for (const file of files) hash.update(path.relative(root, file)).update(readFileSync(file));
  return hash.digest("hex");
}

/** A value that changes with any source in these folders, and with the lock. */
export function sourcesStamp(folders) {
  const files = folders.flatMap((folder) => sources(path.join(root, folder)));
  return hashOf([...files, path.join(root, "package-lock.json")].sort());
}

/** Builds the application when a source is not the one it was built from. */
export function build() {
  const files = [
    ...sources(path.join(root, "src")),
    ...sources(path.join(root, "static")),
    ...sources(path.join(root, "scripts/vite")),
    ...["package-lock.json", "vite.config.ts", "svelte.config.js", "tsconfig.json"].map((f) =>
      path.join(root, f)
    )
  ].sort();
  const want = hashOf(files);
  const stamp = path.join(root, "build/.stamp");
  must(process.execPath, ["scripts/kernels.mjs"]);
  if (stampMatches(stamp, want)) return;
  console.log("Building…");
  quietly(process.execPath, ["node_modules/vite/bin/vite.js", "build", "--logLevel", "error"]);
  mkdirSync(path.dirname(stamp), { recursive: true });
  writeFileSync(stamp, want);
}

/** Installs Debian packages that are missing, where that is allowed. Returns those that are still missing. */
export function debianPackages(programs) {
  const has = (program) => spawnSync("sh", ["-c", `command -v ${program}`]).status === 0;
  const missing = Object.entries(programs).filter(([program]) => !has(program));
  if (missing.length > 0 && process.getuid?.() === 0 && has("apt-get")) {
    const names = missing.map(([, name]) => name);
    console.log(`Installing ${names.join(", ")}…`);
    const env = { ...environment, DEBIAN_FRONTEND: "noninteractive" };
    const quiet = /** @type {const} */ ({ stdio: "ignore", env });
    spawnSync("apt-get", ["update"], quiet);
    spawnSync("apt-get", ["install", "-y", "--no-install-recommends", ...names], quiet);
  }
  return missing.filter(([program]) => !has(program)).map(([, name]) => name);
}

/** Starts the server and forwards signals to it. */
export function serve(dataFolder, port) {
  const child = spawn(process.execPath, ["server/index.mjs"], {
    cwd: root,
    stdio: "inherit",
    env: { ...process.env, NODE_ENV: "production", WRING_DATA: dataFolder, PORT: String(port) }
  });
  for (const signal of /** @type {const} */ (["SIGINT", "SIGTERM"]))
    process.on(signal, () => child.kill(signal));
  child.on("exit", (code) => process.exit(code ?? 0));
}

/** Whether a folder or file is there. */
export function present(file) {
  return statSync(file, { throwIfNoEntry: false }) !== undefined;
}

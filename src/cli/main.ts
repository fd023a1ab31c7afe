// The process of the command line: starts the working thread, shows progress, and cleans up when it is stopped.
import { rmSync } from "node:fs";
import { Worker } from "node:worker_threads";
import type { Message } from "./outcome";

const args = process.argv.slice(2);
const temporary = new Set<string>();
const terminal = process.stderr.isTTY;
const worker = new Worker(new URL("worker.mjs", import.meta.url), { workerData: args });

function clearLine(): void {
  if (terminal) process.stderr.write("\r\x1b[K");
}

function removeTemporary(): void {
  for (const path of temporary) rmSync(path, { recursive: true, force: true });
}

function finish(status: number, out: string, error: string): void {
  clearLine();
  removeTemporary();
  if (error) process.stderr.write(`wring: ${error}\n`);
  process.exitCode = status;
  process.stdout.write(out);
}

let done = false;
worker.on("message", (message: Message) => {
  if (message.kind === "temporary") temporary.add(message.path);
  else if (message.kind === "kept") temporary.delete(message.path);
  else if (message.kind === "progress") {
    if (terminal) process.stderr.write(`\r\x1b[K${message.text}`);
  } else {
    done = true;
    finish(message.status, message.out, message.error);
  }
});
worker.on("error", (error) => {
  done = true;
  finish(1, "", error.message.split("\n")[0]);
});
worker.on("exit", () => {
  if (!done) finish(1, "", "stopped before it was done");
});
for (const signal of ["SIGINT", "SIGTERM"] as const)
  process.on(signal, () => {
    worker.terminate().catch((error: unknown) => {
      process.stderr.write(`${String(error)}\n`);
    });
  });
// A reader that closed early, as `head` does, is no fault.
process.stdout.on("error", () => process.exit(process.exitCode ?? 0));

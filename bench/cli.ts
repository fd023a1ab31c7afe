// The command line on an hour of stereo: speed and the most memory that it takes.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { WavWriter } from "../src/lib/server/media/wavFile";
import { Buffer as KernelBuffer } from "../src/lib/core/kernels/memory";
import { row } from "./table";

const RATE = 48000;
const HOUR = 3600 * RATE;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-cli-"));
const file = path.join(folder, "hour.wav");

function makeHour(): void {
  const writer = new WavWriter(file, "int16", 2, RATE, "none");
  const block = new KernelBuffer(RATE * 8);
  for (let i = 0; i < RATE; i++) {
    block.f32[i] = 0.3 * Math.sin((2 * Math.PI * 220 * i) / RATE) * Math.abs(Math.sin(i / 9000));
    block.f32[RATE + i] = 0.25 * Math.sin((2 * Math.PI * 331 * i) / RATE);
  }
  for (let at = 0; at < HOUR; at += RATE) writer.write(block.ptr, RATE * 4, RATE);
  writer.finish();
}

/** Runs the command line; seconds and the most resident memory, MB. */
async function measured(args: readonly string[]): Promise<{ seconds: number; megabytes: number }> {
  const begin = performance.now();
  const child = spawn(process.execPath, ["build/cli/main.mjs", ...args], {
    stdio: ["ignore", "ignore", "inherit"]
  });
  let kilobytes = 0;
  const look = setInterval(() => {
    try {
      const status = readFileSync(`/proc/${child.pid}/status`, "utf8");
      kilobytes = Math.max(kilobytes, Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0));
    } catch {
      // It has ended; what was seen before counts.
    }
  }, 50);
  const code = await new Promise<number | null>((resolve) => child.on("exit", resolve));
  clearInterval(look);
  if (code !== 0) throw new Error(`wring ${args.join(" ")} ended with ${code}.`);
  return { seconds: (performance.now() - begin) / 1000, megabytes: kilobytes / 1024 };
}

try {
  makeHour();
  const chain = path.join(folder, "chain.json");
  const steps = [
    { effect: "parametric-eq", params: { on1: true, type1: "highPass", freq1: 80 } },
    { effect: "compressor" },
    { effect: "reverse" },
    { effect: "normalize", params: { levelDb: -16 } },
    { effect: "limiter" }
  ];
  writeFileSync(chain, JSON.stringify({ wring: "chain/1", name: "Everything", steps }));
  const tasks: [string, string[]][] = [
    ["measure", ["measure", file]],
    [
      "render, five steps, reverse and normalize among them",
      ["render", file, "--chain", chain, "-o", path.join(folder, "out.wav")]
    ],
    ["normalize", ["normalize", file, "--to", "integrated=-16", "-o", path.join(folder, "even")]]
  ];
  for (const [name, args] of tasks) {
    const { seconds, megabytes } = await measured(args);
    row(`an hour of stereo, ${name}: speed`, 3600 / seconds, "× real time");
    row(`an hour of stereo, ${name}: memory`, megabytes, "MB", undefined, 200);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}

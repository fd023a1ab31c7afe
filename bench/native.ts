// Native references, run as child processes where they are installed. Times are processor time in user mode, seconds.
import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import path from "node:path";

function run(program: string, args: readonly string[]): string | undefined {
  const done = spawnSync(program, args, { encoding: "utf8", maxBuffer: 1 << 24 });
  return done.error || done.status !== 0 ? undefined : done.stdout + done.stderr;
}

/** Whether a program can be started. */
export function installed(program: string): boolean {
  return spawnSync("sh", ["-c", `command -v ${program}`]).status === 0;
}

/** Compiles a C source of bench/native with -O2; undefined when compiler or libraries are missing. */
export function compiled(
  name: string,
  folder: string,
  libraries: readonly string[] = []
): string | undefined {
  const out = path.join(folder, name);
  const args = ["-O2", "-o", out, `bench/native/${name}.c`, ...libraries.map((l) => `-l${l}`), "-lm"];
  if (run("cc", args) === undefined || !existsSync(out)) return undefined;
  return out;
}

/** The numbers that a program of bench/native prints: seconds first. */
export function numbersOf(program: string, args: readonly string[]): number[] {
  const text = run(program, args);
  if (text === undefined) throw new Error(`${program} failed.`);
  return text.trim().split(/\s+/).map(Number);
}

function ffmpegUserTime(args: readonly string[]): number {
  const text = run("ffmpeg", ["-hide_banner", "-nostdin", "-benchmark", "-threads", "1", ...args]);
  const user = /utime=([\d.]+)s/.exec(text ?? "");
  if (!user) throw new Error(`ffmpeg failed: ${args.join(" ")}`);
  return Number(user[1]);
}

/** User time of ffmpeg over a file with a filter, output thrown away. */
export function ffmpegFilter(file: string, filter: string, more: readonly string[] = []): number {
  return ffmpegUserTime([
    "-filter_threads",
    "1",
    "-i",
    file,
    ...more,
    filter.includes("[") ? "-filter_complex" : "-af",
    filter,
    "-f",
    "null",
    "-"
  ]);
}

/** User time of ffmpeg for any conversion. */
export function ffmpegConvert(args: readonly string[]): number {
  return ffmpegUserTime(["-y", ...args]);
}

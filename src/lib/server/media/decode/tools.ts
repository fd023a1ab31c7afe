// ffmpeg and ffprobe as child processes on one file: no network, no other file, little memory.
import { existsSync } from "node:fs";
import { spawn, type ChildProcess } from "node:child_process";
import { FileFault } from "$lib/core/formats/fault";

/** What these formats hold is sound or pictures, never the name of another file: a playlist under a WAV's name is refused. */
const FORMATS =
  "mov,mp3,flac,ogg,wav,w64,aiff,caf,asf,matroska,webm,avi,aac,ac3,eac3,mpegts,mpeg,ape,wv,tta,amr,au,dsf,mpc,mpc8";
const MEMORY_BYTES = 2 ** 31;
const LIMITER = "/usr/bin/prlimit";
const LIMITS = [`--as=${MEMORY_BYTES}`, "--fsize=0", "--nofile=64", "--core=0"];

/** Arguments that must stand before the input. */
export const GUARD = [
  "-protocol_whitelist",
  "file,pipe",
  "-format_whitelist",
  FORMATS,
  "-max_alloc",
  "268435456"
];

const MISSING =
  "it is not a WAV file, and ffmpeg, which reads other formats, is not installed on the server (on Debian: apt install ffmpeg)";

/** Starts ffmpeg or ffprobe. before: arguments that stand before the input; after: behind it; told: whether it has a third way out, pipe:3, to say how far it is. */
export function startTool(
  tool: "ffmpeg" | "ffprobe",
  file: string,
  before: readonly string[],
  after: readonly string[],
  told = false
): ChildProcess {
  // Without "file:" a name that begins like a protocol would be taken for one.
  const args = [...before, ...GUARD, "-i", `file:${file}`, ...after];
  const stdio = ["ignore" as const, "pipe" as const, "pipe" as const, ...(told ? ["pipe" as const] : [])];
  return existsSync(LIMITER) && existsSync(`/usr/bin/${tool}`)
    ? spawn(LIMITER, [...LIMITS, `/usr/bin/${tool}`, ...args], { stdio })
    : spawn(tool, args, { stdio });
}

/** Starts ffmpeg as a coder: it reads samples from its standard input, so that it ends when whoever feeds it does. */
export function startCoder(args: readonly string[]): ChildProcess {
  const limits = LIMITS.filter((limit) => !limit.startsWith("--fsize"));
  const stdio = ["pipe", "ignore", "pipe"] as const;
  return existsSync(LIMITER) && existsSync("/usr/bin/ffmpeg")
    ? spawn(LIMITER, [...limits, "/usr/bin/ffmpeg", ...args], { stdio: [...stdio] })
    : spawn("ffmpeg", args, { stdio: [...stdio] });
}

const MOST_TEXT = 8192;

/** Waits for the end of a process. Returns its exit code and the beginning of what it complained of. @throws FileFault when it is not installed or takes too long */
export function ended(
  child: ChildProcess,
  milliseconds: number,
  missing = MISSING
): Promise<{ readonly code: number | null; readonly complaint: string }> {
  return new Promise((resolve, reject) => {
    let complaint = "";
    const timer = setTimeout(() => {
      child.kill("SIGKILL");
      reject(new FileFault("it took too long"));
    }, milliseconds);
    child.stderr?.on("data", (data: Buffer) => {
      if (complaint.length < MOST_TEXT) complaint += data.toString("utf8");
    });
    child.on("error", (error: NodeJS.ErrnoException) => {
      clearTimeout(timer);
      reject(error.code === "ENOENT" ? new FileFault(missing) : error);
    });
    child.on("close", (code) => {
      clearTimeout(timer);
      resolve({ code, complaint });
    });
  });
}

/** The last thing that ffmpeg complained of, without the addresses it puts before it. */
export function lastComplaint(complaint: string): string {
  const last = complaint.trim().split("\n").pop() ?? "";
  return last.replace(/^\[.*?\]\s*/, "").slice(0, 160);
}

// ffmpeg and ffprobe as child processes on one file: no network, no other file, little memory.
import { existsSync } from "node:fs";
import { spawn, type ChildProcess, type StdioOptions } from "node:child_process";
import { FileFault } from "$lib/core/formats/fault";

/** What these formats hold is sound or pictures, never the name of another file: a playlist under a WAV's name is refused. */
const FORMATS = [
  "mov,mp3,flac,ogg,wav,w64,aiff,caf,asf,matroska,webm,avi,aac,ac3,eac3,mpegts,mpeg,ape,wv,tta,amr,au,dsf,mpc,mpc8",
  "flv,mxf,gxf,dv,dts,dtshd,truehd,mlp,iff,voc,nistsphere,ircam,sox,tak"
].join(",");
const MEMORY_BYTES = 2 ** 31;
/** It ends with the thread that started it, however that ends: cancelled, or killed with the whole server. */
const TIE = "/usr/bin/setpriv";
const TIED = ["--pdeathsig", "KILL"];
const LIMITER = "/usr/bin/prlimit";
const LIMITS = [`--as=${MEMORY_BYTES}`, "--nofile=64", "--core=0"];
const NO_FILES = "--fsize=0";

/** What ffmpeg calls samples without a header, as they are kept in our files. */
export const RAW = { int16: "s16le", int24: "s24le", float32: "f32le" } as const;

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

/** Starts a tool under its limits, where the system has what sets them. */
function start(
  tool: string,
  limits: readonly string[],
  args: readonly string[],
  stdio: StdioOptions
): ChildProcess {
  return [TIE, LIMITER, `/usr/bin/${tool}`].every((file) => existsSync(file))
    ? spawn(TIE, [...TIED, LIMITER, ...limits, `/usr/bin/${tool}`, ...args], { stdio })
    : spawn(tool, args, { stdio });
}

export interface ToolWays {
  /** Whether it has a third way out, pipe:3, to say how far it is. */
  readonly told?: boolean;
  /** The open file that is its pipe:1, and grows from where that is; a pipe unless given. */
  readonly into?: number | undefined;
}

/** Starts ffmpeg or ffprobe on a file. before: arguments that stand before the input; after: behind it. */
export function startTool(
  tool: "ffmpeg" | "ffprobe",
  file: string,
  before: readonly string[],
  after: readonly string[],
  { told = false, into }: ToolWays = {}
): ChildProcess {
  // Without "file:" a name that begins like a protocol would be taken for one.
  const args = [...before, ...GUARD, "-i", `file:${file}`, ...after];
  const limits = into === undefined ? [...LIMITS, NO_FILES] : LIMITS;
  return start(tool, limits, args, ["ignore", into ?? "pipe", "pipe", ...(told ? ["pipe" as const] : [])]);
}

/** Starts ffmpeg as a coder: it reads samples from its standard input, so that it ends when whoever feeds it does. */
export function startCoder(args: readonly string[]): ChildProcess {
  return start("ffmpeg", LIMITS, args, ["pipe", "ignore", "pipe"]);
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

// An hour of stereo at 48 kHz, 24 bit, imported through a running server as a page does: speed and the server's memory. As WAV, and as FLAC and MP3
// beside what ffmpeg alone needs to decode them. A machine does not keep its pace, so imports and ffmpeg take turns.
import {
  closeSync,
  existsSync,
  mkdtempSync,
  openAsBlob,
  openSync,
  readFileSync,
  rmSync,
  writeSync
} from "node:fs";
import { execFile } from "node:child_process";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { wavHeader } from "../src/lib/core/formats/wavWriter";
import { promisify } from "node:util";
import { call, imported, sendFile, withServer } from "./server";
import { row } from "./table";

const run = promisify(execFile);
const SECONDS = Number(process.env.WRING_BENCH_IMPORT ?? 3600);
const RATE = 48000;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-"));
const file = path.join(folder, "hour.wav");

/** So often an import and ffmpeg take turns. */
const TURNS = 3;
/** Of the noise under the tone: FLAC packs the whole to 65 %. */
const NOISE = 1 << 14;

/** An hour of a loud tone over deterministic noise, ten seconds of it over and over. */
function makeHour(): void {
  const fd = openSync(file, "w");
  writeSync(fd, wavHeader("int24", 2, RATE, SECONDS * RATE));
  const part = Buffer.alloc(RATE * 10 * 6);
  let s = 7;
  for (let i = 0; i < part.length / 3; i++) {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    const tone = Math.sin((2 * Math.PI * 220 * Math.floor(i / 2)) / RATE);
    part.writeIntLE(Math.round(tone * (1 << 21) + (s / 2 ** 31 - 1) * NOISE), i * 3, 3);
  }
  for (let i = 0; i < SECONDS / 10; i++) {
    part.writeInt16LE(i, 0);
    writeSync(fd, part);
  }
  closeSync(fd);
}

/** Memory in MB. */
let largest = 0;

/** Imports a file on a server of its own. Returns seconds of the whole, and from when it had been sent. */
async function timed(given: string): Promise<{ readonly whole: number; readonly made: number }> {
  const data = mkdtempSync(path.join(folder, "data-"));
  const times = await withServer(data, 2, async (pid) => {
    const { id } = await call<{ id: string }>("/api/projects", { name: "Hour", sampleRate: RATE });
    const begin = performance.now();
    const job = await sendFile(id, path.basename(given), await openAsBlob(given));
    const sent = performance.now();
    await imported(job);
    const end = performance.now();
    const status = readFileSync(`/proc/${pid}/status`, "utf8");
    largest = Math.max(largest, Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? NaN) / 1024);
    return { whole: (end - begin) / 1000, made: (end - sent) / 1000 };
  });
  rmSync(data, { recursive: true, force: true });
  return times;
}

/** Seconds that ffmpeg needs to decode a file. */
async function decoded(coded: string, ...to: string[]): Promise<number> {
  const begin = performance.now();
  await run("ffmpeg", ["-v", "error", "-nostdin", "-threads", "1", "-i", coded, ...to]);
  return (performance.now() - begin) / 1000;
}

async function intoFile(coded: string, kept: string): Promise<number> {
  const wav = path.join(folder, "decoded.wav");
  const seconds = await decoded(coded, "-c:a", kept, "-rf64", "auto", wav);
  rmSync(wav);
  return seconds;
}

try {
  makeHour();
  const { whole } = await timed(file);
  row("import of an hour, stereo, 24 bit, upload included", SECONDS / whole, "× real time", 60);
  if (existsSync("/usr/bin/ffmpeg"))
    for (const [ending, kept, ...coder] of [
      ["flac", "pcm_s24le", "-c:a", "flac"],
      ["mp3", "pcm_f32le", "-c:a", "libmp3lame", "-b:a", "192k"]
    ] as const) {
      const coded = path.join(folder, `hour.${ending}`);
      await run("ffmpeg", ["-v", "error", "-nostdin", "-i", file, ...coder, coded]);
      const spent = { alone: 0, nowhere: 0, made: 0, whole: 0 };
      for (let turn = 0; turn < TURNS; turn++) {
        spent.alone += await intoFile(coded, kept);
        const { whole, made } = await timed(coded);
        spent.made += made;
        spent.whole += whole;
        spent.nowhere += await decoded(coded, "-f", "null", "-");
      }
      row(
        `import of an hour of ${ending} beside ffmpeg's decoding into a file`,
        spent.alone / spent.made,
        "×",
        0.8
      );
      row(`the same beside its decoding into nothing`, spent.nowhere / spent.made, "×");
      row(`and with sending the file`, spent.alone / spent.whole, "×");
    }
  row("largest memory of the server meanwhile", largest, "MB", undefined, 300);
} finally {
  rmSync(folder, { recursive: true, force: true });
}

// An hour of stereo at 48 kHz, 24 bit, imported through a running server as a page does: speed and the server's memory. As WAV, and as FLAC and MP3
// beside what ffmpeg alone needs to decode them.
import { closeSync, existsSync, mkdtempSync, openSync, readFileSync, rmSync, writeSync } from "node:fs";
import { openAsBlob } from "node:fs";
import { execFile, spawn } from "node:child_process";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { wavHeader } from "../src/lib/core/formats/wavWriter";
import { promisify } from "node:util";
import { row } from "./table";

const run = promisify(execFile);
const PORT = 4695;
const SECONDS = Number(process.env.WRING_BENCH_IMPORT ?? 3600);
const RATE = 48000;
const CHUNK = 16 << 20;
const base = `http://127.0.0.1:${PORT}`;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-"));
const file = path.join(folder, "hour.wav");

/** An hour of deterministic noise, ten seconds of it over and over. */
function makeHour(): void {
  const fd = openSync(file, "w");
  writeSync(fd, wavHeader("int24", 2, RATE, SECONDS * RATE));
  const part = Buffer.alloc(RATE * 10 * 6);
  let s = 7;
  for (let i = 0; i < part.length; i++) {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    part[i] = i % 3 === 2 ? ((s >>> 24) % 64) - 32 : s >>> 24;
  }
  for (let i = 0; i < SECONDS / 10; i++) {
    part.writeUInt32LE(i, 0);
    writeSync(fd, part);
  }
  closeSync(fd);
}

async function post<T>(url: string, body: unknown): Promise<T> {
  const answer = await fetch(base + url, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body)
  });
  return (await answer.json()) as T;
}

const encode = (text: string) => Buffer.from(text).toString("base64");

async function upload(projectId: string, file: string): Promise<string> {
  const blob = await openAsBlob(file);
  const created = await fetch(`${base}/api/uploads`, {
    method: "POST",
    headers: {
      "tus-resumable": "1.0.0",
      "upload-length": String(blob.size),
      "upload-metadata": `filename ${encode(path.basename(file))},projectId ${encode(projectId)}`
    }
  });
  const place = new URL(created.headers.get("location") ?? "", base);
  let job = "";
  for (let at = 0; at < blob.size; at += CHUNK) {
    const answer = await fetch(place, {
      method: "PATCH",
      headers: {
        "tus-resumable": "1.0.0",
        "upload-offset": String(at),
        "content-type": "application/offset+octet-stream"
      },
      body: blob.slice(at, at + CHUNK)
    });
    if (!answer.ok) throw new Error(`Upload failed: ${await answer.text()}`);
    job = answer.headers.get("x-job") ?? job;
  }
  return job;
}

makeHour();
const server = spawn(process.execPath, ["server/index.mjs"], {
  env: {
    ...process.env,
    NODE_ENV: "production",
    PORT: String(PORT),
    WRING_DATA: path.join(folder, "data"),
    WRING_LOG: "silent"
  },
  stdio: ["ignore", "ignore", "inherit", "ipc"]
});
try {
  await new Promise((resolve) => server.once("message", resolve));
  const peakMemory = () =>
    Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, "utf8"))?.[1] ?? NaN) / 1024;
  const { id } = await post<{ id: string }>("/api/projects", { name: "Hour", sampleRate: RATE });
  const imported = async (given: string) => {
    const begin = performance.now();
    const job = await upload(id, given);
    const sent = performance.now();
    for (;;) {
      const { state, error } = (await (await fetch(`${base}/api/jobs/${job}`)).json()) as {
        state: string;
        error: string;
      };
      const now = performance.now();
      if (state === "done") return { whole: (now - begin) / 1000, made: (now - sent) / 1000 };
      if (state === "failed") throw new Error(error);
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  };
  row(
    "import of an hour, stereo, 24 bit, upload included",
    SECONDS / (await imported(file)).whole,
    "× real time",
    60
  );
  if (existsSync("/usr/bin/ffmpeg"))
    for (const [ending, kept, ...coder] of [
      ["flac", "pcm_s24le", "-c:a", "flac"],
      ["mp3", "pcm_f32le", "-c:a", "libmp3lame", "-b:a", "192k"]
    ] as const) {
      const coded = path.join(folder, `hour.${ending}`);
      // Other sound than the WAV file's: the same would be known already.
      await run("ffmpeg", ["-v", "error", "-nostdin", "-i", file, "-af", "volume=0.9", ...coder, coded]);
      const decoded = async (...to: string[]) => {
        const begin = performance.now();
        await run("ffmpeg", ["-v", "error", "-nostdin", "-threads", "1", "-i", coded, ...to]);
        return (performance.now() - begin) / 1000;
      };
      const wav = path.join(folder, "decoded.wav");
      const intoFile = async () => {
        const seconds = await decoded("-c:a", kept, "-rf64", "auto", wav);
        rmSync(wav);
        return seconds;
      };
      // Before and after: the machine does not keep its pace.
      const before = await intoFile();
      const { whole, made } = await imported(coded);
      const alone = (before + (await intoFile())) / 2;
      const nowhere = await decoded("-f", "null", "-");
      row(`import of an hour of ${ending} beside ffmpeg's decoding into a file`, alone / made, "×", 0.8);
      row(`the same beside its decoding into nothing`, nowhere / made, "×");
      row(`and with sending the file`, alone / whole, "×");
    }
  row("largest memory of the server meanwhile", peakMemory(), "MB", undefined, 300);
} finally {
  server.kill();
  // It makes a backup before it ends.
  await new Promise((resolve) => server.once("exit", resolve));
  rmSync(folder, { recursive: true, force: true });
}

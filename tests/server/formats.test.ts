// Files in other formats become recordings: made by ffmpeg from a known sound, imported through the server's services, and compared with it.
import { folder } from "./folder";
import { createHash } from "node:crypto";
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { recordingsByName } from "../../src/lib/core/session/lookup";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startImport } from "../../src/lib/server/jobs/order";
import { cancelJob, startRunner } from "../../src/lib/server/jobs/runner";
import { originalPath } from "../../src/lib/server/media/paths";
import { WavFile } from "../../src/lib/server/media/wavFile";
import { createProject } from "../../src/lib/server/services/projects";
import { riff } from "../core/wavBytes";
import { cleared, ended, importing, mediaFiles, uploaded } from "../support/jobs";
import * as project from "../support/project";
import { useThreads } from "../support/threads";

const installed = existsSync("/usr/bin/ffmpeg");
const made = mkdtempSync(path.join(tmpdir(), "wring-formats-"));
let projectId = "";

/** Frames of the sound: no multiple of any coder's block. */
const FRAMES = { 48000: 96137, 44100: 88211 };
type Rate = keyof typeof FRAMES;

/** Sounds differ by their names: the same sound twice is one recording. */
function seedOf(name: string): number {
  return [...name].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) % 997, 7);
}

/** A sound, interleaved stereo in 24-bit steps: tones that never repeat, and a click at frame 1000. */
function original(rate: Rate, name: string): Int32Array {
  const seed = seedOf(name);
  const out = new Int32Array(2 * FRAMES[rate]);
  for (let i = 0; i < FRAMES[rate]; i++) {
    const t = i / rate;
    out[2 * i] = Math.round(2 ** 22 * Math.sin(2 * Math.PI * (300 + seed + 90 * t) * t));
    out[2 * i + 1] = Math.round(2 ** 21 * Math.sin(2 * Math.PI * (1000 - 70 * t) * t));
  }
  out[2000] = 2 ** 23 - 1;
  return out;
}

function source(rate: Rate, name: string): string {
  const file = path.join(made, `source-${seedOf(name)}-${rate}.wav`);
  if (existsSync(file)) return file;
  const samples = original(rate, name);
  const data = Buffer.alloc(samples.length * 3);
  samples.forEach((v, i) => data.writeIntLE(v, 3 * i, 3));
  writeFileSync(path.join(made, `${rate}.raw`), data);
  ffmpeg(
    "-f",
    "s24le",
    "-ar",
    String(rate),
    "-ac",
    "2",
    "-i",
    path.join(made, `${rate}.raw`),
    "-c:a",
    "pcm_s24le",
    file
  );
  return file;
}

function ffmpeg(...args: string[]): void {
  execFileSync("ffmpeg", ["-v", "error", "-nostdin", "-y", ...args]);
}

/** A file made of the sound. */
function file(name: string, rate: Rate, sound: string, ...how: string[]): Buffer {
  const target = path.join(made, name);
  ffmpeg("-i", source(rate, sound), ...how, target);
  return readFileSync(target);
}

/** Imports a file; its samples as they are kept, interleaved, 1 is full scale. */
async function imported(name: string, bytes: Uint8Array) {
  const job = await importing(projectId, name, bytes);
  expect(job.error).toBeNull();
  const wanted = name.replace(/\.[^.]*$/, "");
  const recording = recordingsByName(await project.documentNow(projectId)).find((r) => r.name === wanted);
  if (!recording) throw new Error(`There is no recording ${wanted}.`);
  const stored = originalPath(folder, recording.media ?? "");
  // Its name was found while it was written.
  expect(createHash("sha512-256").update(readFileSync(stored)).digest("hex")).toBe(recording.media);
  const wav = new WavFile(stored);
  const { frames, channels, sampleRate, kind } = wav.layout;
  const planar = new KernelBuffer(frames * channels * 4);
  wav.read(0, frames, planar.ptr, frames * 4);
  const samples = planar.f32.slice(0, frames * channels);
  planar.release();
  wav.close();
  return {
    frames,
    channels,
    sampleRate,
    kind,
    samples,
    note: recording.about?.note,
    format: recording.about?.format,
    kept: sourceOf(stored)
  };
}

/** The file from which a stored one was decoded; empty when it is itself the one that was given. */
function sourceOf(stored: string): Buffer {
  const file = stored.replace(/wav$/, "source");
  return existsSync(file) ? readFileSync(file) : Buffer.alloc(0);
}

const db = (ratio: number) => 20 * Math.log10(ratio);

/**
 * How far two sounds are apart, relative to the first, in dB; one of planar, the other of interleaved samples.
 * @param late frames by which the former begins late
 */
function apart(planar: Float32Array, frames: number, rate: Rate, name: string, late = 0): number {
  const wanted = original(rate, name);
  let [error, power] = [0, 0];
  for (let i = 0; i < Math.min(frames - late, FRAMES[rate]); i++)
    for (let c = 0; c < 2; c++) {
      const w = wanted[2 * i + c] / 2 ** 23;
      error += (planar[c * frames + i + late] - w) ** 2;
      power += w * w;
    }
  return db(Math.sqrt(error / power));
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Formats", 48000);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
  rmSync(made, { recursive: true, force: true });
});

// Where ffmpeg is not installed these are left out, and counted as that.
describe.skipIf(!installed)("what ffmpeg decodes is imported", () => {
  it.each<[string, Rate, string[], string, string]>([
    ["flac 24.flac", 48000, [], "int24", "FLAC"],
    ["flac 16.flac", 44100, ["-sample_fmt", "s16"], "int16", "FLAC"],
    ["alac.m4a", 48000, ["-c:a", "alac"], "int24", "MP4, ALAC"],
    ["aiff.aiff", 44100, ["-c:a", "pcm_s24be"], "int24", "AIFF, PCM"],
    ["caf.caf", 48000, ["-c:a", "pcm_s24le"], "int24", "CAF, PCM"],
    ["mov.mov", 48000, ["-c:a", "pcm_s24le"], "int24", "MOV, PCM"],
    ["wavpack.wv", 48000, [], "float32", "WavPack"],
    ["tta.tta", 48000, [], "int24", "TTA"],
    ["truehd.thd", 48000, ["-c:a", "truehd", "-strict", "-2"], "int24", "TrueHD"]
  ])("%s, sample for sample", async (name, rate, how, kind, format) => {
    const bytes = file(name, rate, name, ...how);
    const got = await imported(name, bytes);
    expect([got.frames, got.channels, got.sampleRate, got.kind]).toEqual([FRAMES[rate], 2, rate, kind]);
    expect(got.format).toBe(format);
    // 16 bits were rounded by what made the file.
    expect(apart(got.samples, got.frames, rate, name)).toBeLessThan(kind === "int16" ? -83 : -200);
    // The file as it was given is kept beside it.
    expect(got.kept.equals(bytes)).toBe(true);
  });

  it.each<[string, Rate, string[], number, string]>([
    ["mp3.mp3", 44100, ["-b:a", "256k"], -35, "MP3"],
    ["mp3 48.mp3", 48000, ["-q:a", "0"], -35, "MP3"],
    ["vorbis.ogg", 44100, ["-c:a", "libvorbis", "-q:a", "7"], -25, "Ogg, Vorbis"],
    ["opus.opus", 48000, ["-b:a", "256k"], -20, "Ogg, Opus"],
    ["aac.m4a", 48000, ["-b:a", "256k"], -25, "MP4, AAC"],
    ["aac 44.m4a", 44100, ["-b:a", "256k"], -25, "MP4, AAC"],
    ["aac fine clock.mp4", 48000, ["-b:a", "256k", "-movie_timescale", "48000"], -25, "MP4, AAC"]
  ])("%s, lossy, to the sample as long and in its place", async (name, rate, how, near, format) => {
    const got = await imported(name, file(name, rate, name, ...how));
    expect(got.format).toBe(format);
    expect([got.frames, got.channels, got.sampleRate, got.kind]).toEqual([FRAMES[rate], 2, rate, "float32"]);
    expect(apart(got.samples, got.frames, rate, name)).toBeLessThan(near);
  });

  // The delays are measured, not from a standard: that of layer II is its filter bank's.
  it.each<[string, Rate, string[], frames: number, ms: number]>([
    ["late mp2.mp2", 48000, ["-b:a", "384k"], 481, 10],
    ["late mp3.mkv", 44100, ["-c:a", "libmp3lame", "-b:a", "256k"], 1105, 25],
    ["late aac.ts", 48000, ["-c:a", "aac", "-b:a", "256k"], 1024, 21],
    ["late aac flv.flv", 44100, ["-c:a", "aac", "-b:a", "256k"], 1024, 21],
    ["late ac3.ac3", 48000, ["-b:a", "448k"], 256, 5],
    ["late dts.dts", 48000, ["-c:a", "dca", "-strict", "-2", "-b:a", "1411k"], 512, 11]
  ])("%s begins as late as its recording says", async (name, rate, how, late, ms) => {
    const got = await imported(name, file(name, rate, name, ...how));
    expect(got.note).toBe(`The file does not tell its coder's delay: it begins about ${ms} ms late.`);
    expect(apart(got.samples, got.frames, rate, name, late)).toBeLessThan(-25);
  });

  it("the sound of a video, of the stream that it plays by itself", async () => {
    const video = path.join(made, "video.mkv");
    const quiet = ["-f", "lavfi", "-i", "anullsrc=r=48000:cl=mono:d=2"];
    const picture = ["-f", "lavfi", "-i", "testsrc=s=64x64:r=25:d=2"];
    const maps = ["-map", "0:v", "-map", "1:a", "-map", "2:a"];
    const streams = ["-disposition:a:0", "0", "-disposition:a:1", "default", "-c:v", "mpeg4", "-c:a", "flac"];
    ffmpeg(...picture, ...quiet, "-i", source(48000, "video"), ...maps, ...streams, video);
    const got = await imported("video.mkv", readFileSync(video));
    expect([got.frames, got.channels, got.format]).toEqual([FRAMES[48000], 2, "Matroska, FLAC"]);
    expect(apart(got.samples, got.frames, 48000, "video")).toBeLessThan(-200);
  });

  it("Wave64 is read as it is: not a frame of its padding comes along", async () => {
    const bytes = file("wave.w64", 48000, "wave", "-c:a", "pcm_s24le");
    const got = await imported("wave.w64", bytes);
    expect([got.frames, got.kind]).toEqual([FRAMES[48000], "int24"]);
    expect(apart(got.samples, got.frames, 48000, "wave")).toBeLessThan(-200);
  });

  it("six channels, each as it was", async () => {
    const surround = path.join(made, "six.flac");
    ffmpeg(
      "-f",
      "lavfi",
      "-i",
      "aevalsrc=0.1|0.2|0.3|0.4|0.5|0.6:c=5.1:s=48000:d=0.5",
      "-sample_fmt",
      "s32",
      surround
    );
    const got = await imported("six.flac", readFileSync(surround));
    expect(got.channels).toBe(6);
    for (let c = 0; c < 6; c++) expect(got.samples[c * got.frames + 100]).toBeCloseTo(0.1 * (c + 1), 4);
  });

  it("the same sound in two formats is one recording, and said to be", async () => {
    const job = await importing(
      projectId,
      "again.aiff",
      file("again.aiff", 48000, "flac 24.flac", "-c:a", "pcm_s24be")
    );
    expect([job.error, job.result]).toEqual([null, expect.objectContaining({ same: "flac 24" })]);
  });
});

describe.skipIf(!installed)("what cannot be used is refused with a sentence, and nothing is left", () => {
  const flac = () => file("whole.flac", 48000, "whole");
  const playlist = `#EXTM3U\n#EXTINF:1,x\nfile://${path.join(made, "secret.wav")}\n`;
  const concat = `ffconcat version 1.0\nfile '${path.join(made, "secret.wav")}'\n`;

  it.each<[string, () => Uint8Array, string]>([
    ["cut.flac", () => flac().subarray(0, flac().length / 2), "it is cut off: "],
    [
      "random.mp3",
      () => Uint8Array.from({ length: 20000 }, (_, i) => (i * 7919 * ((i >> 3) + 13)) & 255),
      "no sound that can be read"
    ],
    ["letter.flac", () => Buffer.from("Dear all, this is a letter."), "no sound that can be read"],
    ["list.wav", () => Buffer.from(playlist), "no sound that can be read"],
    ["concat.wav", () => Buffer.from(concat), "no sound that can be read"],
    ["picture.png", () => pictureOf("png"), "no sound that can be read"],
    ["silent.mp4", () => pictureOf("mp4"), "it has no sound"],
    ["locked.mp4", () => locked(), "it is encrypted"],
    ["no end.mp4", () => locked().subarray(0, 30000), "its end, without which it cannot be read, is missing"],
    ["ten.flac.mka", () => channelsOf(10), "it has 10 channels; up to 8 can be used"],
    ["slow.caf", () => rateOf(4000), "its sample rate of 4000 Hz lies outside 8 to 384 kHz"],
    ["unknown.wav", () => riff({ tag: 0x1234 }), "its sound is coded in a way that cannot be read"]
  ])("%s", async (name, bytes, reason) => {
    copySecret();
    const before = mediaFiles();
    const job = await importing(projectId, name, bytes());
    expect(job.state).toBe("failed");
    expect(job.error).toMatch(new RegExp(`^"${name.replace(/\./g, "\\.")}" was not imported: .*\\.$`));
    expect(job.error).toContain(reason);
    expect(mediaFiles()).toEqual(before);
  });

  function copySecret(): void {
    writeFileSync(path.join(made, "secret.wav"), readFileSync(source(48000, "secret")));
  }

  function pictureOf(kind: "png" | "mp4"): Buffer {
    const target = path.join(made, `picture.${kind}`);
    const frames = kind === "png" ? ["-frames:v", "1"] : ["-c:v", "mpeg4"];
    ffmpeg("-f", "lavfi", "-i", "testsrc=s=64x64:r=25:d=0.4", ...frames, target);
    return readFileSync(target);
  }

  /** Encrypted by ISO/IEC 23001-7; its index stands at the end. */
  function locked(): Buffer {
    const target = path.join(made, "locked.mp4");
    const [key, kid] = ["00112233445566778899aabbccddeeff", "ffeeddccbbaa99887766554433221100"];
    const how = ["-encryption_scheme", "cenc-aes-ctr", "-encryption_key", key, "-encryption_kid", kid];
    ffmpeg("-f", "lavfi", "-i", "anoisesrc=r=48000:d=4:seed=3", "-c:a", "aac", ...how, target);
    return readFileSync(target);
  }

  function channelsOf(count: number): Buffer {
    const target = path.join(made, "many.mka");
    const levels = Array.from({ length: count }, () => "0.1").join("|");
    ffmpeg("-f", "lavfi", "-i", `aevalsrc=${levels}:s=48000:d=0.2`, "-c:a", "pcm_s16le", target);
    return readFileSync(target);
  }

  function rateOf(rate: number): Buffer {
    const target = path.join(made, "slow.caf");
    ffmpeg("-f", "lavfi", "-i", `sine=r=${rate}:d=0.5`, "-c:a", "pcm_s16le", target);
    return readFileSync(target);
  }
});

describe.runIf(existsSync("/usr/bin/setpriv") && installed)("an import that is cancelled", () => {
  /** Processes that work on a file. */
  const onFile = (id: string) =>
    readdirSync("/proc").filter((pid) => {
      if (!/^\d+$/.test(pid)) return false;
      try {
        return readFileSync(`/proc/${pid}/cmdline`, "latin1").includes(id);
      } catch {
        // It has ended meanwhile.
        return false;
      }
    });

  async function until(wanted: () => boolean): Promise<void> {
    while (!wanted()) await new Promise((resolve) => setTimeout(resolve, 5));
  }

  it("while ffmpeg decodes an hour of silence ends ffmpeg as well, and leaves nothing", async () => {
    const target = path.join(made, "hour.flac");
    ffmpeg("-f", "lavfi", "-i", "anullsrc=r=48000:cl=mono", "-t", "3600", "-sample_fmt", "s16", target);
    const upload = uploaded(readFileSync(target));
    const before = mediaFiles();
    const { id } = await startImport(projectId, { uploadId: upload, fileName: "hour.flac" });
    const decoded = path.join(folder, "scratch", id, "decoded.wav");
    await until(() => (statSync(decoded, { throwIfNoEntry: false })?.size ?? 0) > 1e5);
    const [pid] = onFile(upload);
    // Stopped, it cannot come to its end by itself.
    process.kill(Number(pid), "SIGSTOP");
    await cancelJob(id);
    expect((await ended(id)).state).toBe("cancelled");
    await cleared(id);
    await until(() => onFile(upload).length === 0);
    expect(existsSync(decoded)).toBe(false);
    expect(mediaFiles()).toEqual(before);
  });
});

describe.runIf(installed)("a file that is cut off", () => {
  /** A FLAC file whose coder could not go back to tell how long it has become. */
  function piped(): Buffer {
    const from = source(48000, "piped.flac");
    return execFileSync("ffmpeg", ["-v", "error", "-i", from, "-c:a", "flac", "-f", "flac", "-"]);
  }

  it.each([
    ["torn.flac", () => file("torn.flac", 48000, "torn.flac")],
    ["torn.wav", () => readFileSync(source(48000, "torn.wav"))],
    ["torn.mp3", () => file("torn.mp3", 48000, "torn.mp3", "-b:a", "128k")],
    ["bare.mp3", () => file("bare.mp3", 48000, "bare.mp3", "-b:a", "128k", "-write_xing", "0")],
    // In pages of a tenth of a second: what is in a page that is cut is lost.
    ["torn.opus", () => file("torn.opus", 48000, "torn.opus", "-page_duration", "100000")],
    ["torn.aac", () => file("torn.aac", 48000, "torn.aac")],
    ["torn.ac3", () => file("torn.ac3", 48000, "torn.ac3")],
    ["torn.wma", () => file("torn.wma", 48000, "torn.wma")],
    ["torn.caf", () => file("torn.caf", 48000, "torn.caf", "-c:a", "pcm_s24be")],
    ["piped.flac", () => piped()]
  ])("%s is refused, and taken as far as it can be read when asked for", async (name, make) => {
    const whole = make();
    const bytes = whole.subarray(0, Math.floor(whole.length * 0.6));
    const refused = await importing(projectId, name, bytes);
    expect(refused.error).toMatch(/is cut off|is damaged after|is truncated/);
    const job = await ended(
      (await startImport(projectId, { uploadId: uploaded(bytes), fileName: name, partial: true })).id
    );
    expect(job.error).toBeNull();
    const { recordingId } = job.result as { recordingId: string };
    const recording = (await project.documentNow(projectId)).get("recordings", recordingId);
    expect(recording?.about?.note).toMatch(
      /^Taken as far as it can be read: it is (cut off|damaged|truncated)/
    );
    expect(recording?.frames).toBeGreaterThan(FRAMES[48000] * 0.5);
    expect(recording?.frames).toBeLessThan(FRAMES[48000] * 0.65);
  });
});

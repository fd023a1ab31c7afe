// Files that are delivered: read again by programs that are not ours.
import { folder } from "./folder";
import { execFileSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import path from "node:path";
import { crc32 } from "node:zlib";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { DeliveredFile } from "../../src/lib/api/delivery";
import type { Wanted } from "../../src/lib/core/delivery/items";
import { standardSettings, withCoding, type DeliverySettings } from "../../src/lib/core/delivery/settings";
import { recordingsByName, tracksInOrder } from "../../src/lib/core/session/lookup";
import { newClip, newSection, newStep, newTrack } from "../../src/lib/core/session/make";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { deliveredPath } from "../../src/lib/server/jobs/kinds/deliver";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { deliveriesOf, orderDelivery } from "../../src/lib/server/services/deliveries";
import { archiveOf } from "../../src/lib/server/services/deliveryArchive";
import { createProject } from "../../src/lib/server/services/projects";
import { WavFile } from "../../src/lib/server/media/wavFile";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import * as project from "../support/project";
import { ended, importing } from "../support/jobs";
import { useThreads } from "../support/threads";

const there = (program: string) => existsSync(`/usr/bin/${program}`);
const SECTIONS = ["Harbour, morning", "Überfahrt = 2; #\\3"];
let projectId = "";

const fixture = (name: string) => readFileSync(path.join(import.meta.dirname, "../fixtures", name));

function settings(
  coding: DeliverySettings["coding"],
  change: Partial<DeliverySettings> = {}
): DeliverySettings {
  return { ...withCoding(standardSettings(), coding), ...change };
}

/** Delivers, and waits. */
async function delivered(
  wanted: Wanted,
  how: DeliverySettings
): Promise<(DeliveredFile & { readonly file: string })[]> {
  const orders = await orderDelivery(projectId, { wanted, settings: how });
  const done = [];
  for (const { job } of orders) {
    const end = await ended(job.id);
    expect(end.error).toBeNull();
    const file = deliveredPath(job.id);
    if (!file) throw new Error("The file is not there.");
    done.push({ ...(end.result as DeliveredFile), file });
  }
  return done;
}

async function mix(coding: DeliverySettings["coding"], change: Partial<DeliverySettings> = {}) {
  const [file] = await delivered({ what: "mix" }, settings(coding, change));
  if (!file) throw new Error("Nothing was delivered.");
  return file;
}

/** What ffprobe says, everything of it. */
/** A PNG picture of one pixel with half a megabyte of text: as long as covers are, and longer than a page of Ogg or an argument of a command. */
function longPicture(): Buffer {
  const png = Buffer.from(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
    "base64"
  );
  const chunk = Buffer.from(`tEXtComment\0${"wring ".repeat(80_000)}`, "latin1");
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  length.writeUInt32BE(chunk.length - 4);
  sum.writeUInt32BE(crc32(chunk));
  const end = png.length - 12;
  return Buffer.concat([png.subarray(0, end), length, chunk, sum, png.subarray(end)]);
}

function probed(file: string) {
  const text = execFileSync("ffprobe", [
    ...["-v", "error", "-of", "json", "-show_format", "-show_streams", "-show_chapters"],
    file
  ]).toString();
  return JSON.parse(text) as {
    format: { tags?: Record<string, string>; bit_rate: string };
    streams: {
      codec_name: string;
      codec_type: string;
      sample_rate: string;
      channels: number;
      bits_per_raw_sample?: string;
      tags?: Record<string, string>;
      disposition?: Record<string, number>;
    }[];
    chapters: { start_time: string; tags?: { title?: string } }[];
  };
}

/** Integrated loudness and true peak as ffmpeg's own meter (libavfilter ebur128) reads a file. */
function metered(file: string): { lufs: number; peak: number } {
  const text = execFileSync("sh", [
    "-c",
    'ffmpeg -nostdin -hide_banner -i "$1" -map 0:a -af ebur128=peak=true -f null - 2>&1',
    "sh",
    file
  ]).toString();
  const summary = text.slice(text.lastIndexOf("Summary:"));
  const value = (name: string) => Number(new RegExp(`${name}:\\s+(-?[\\d.]+)`).exec(summary)?.[1]);
  return { lufs: value("I"), peak: value("Peak") };
}

/** Samples of a file as ffmpeg decodes them, interleaved. */
function samplesOf(file: string, ...how: string[]): Float32Array {
  const bytes = execFileSync(
    "ffmpeg",
    ["-v", "error", "-nostdin", "-i", file, "-map", "0:a", ...how, "-f", "f32le", "-"],
    {
      maxBuffer: 1 << 28
    }
  );
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

/** Samples of a WAV file as we read it, interleaved. */
function ownSamples(file: string): Float32Array {
  const wav = new WavFile(file);
  const { frames, channels } = wav.layout;
  const planar = new KernelBuffer(frames * channels * 4);
  wav.read(0, frames, planar.ptr, frames * 4);
  const out = new Float32Array(frames * channels);
  for (let i = 0; i < frames; i++)
    for (let c = 0; c < channels; c++) out[i * channels + c] = planar.f32[c * frames + i];
  planar.release();
  wav.close();
  return out;
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Ferry at dawn", 48000);
  await importing(projectId, "speech.wav", fixture("speech.wav"));
  await importing(projectId, "guitar.wav", fixture("guitar.wav"));
  const doc = await project.documentNow(projectId);
  const [guitar, speech] = recordingsByName(doc);
  const [first] = tracksInOrder(doc);
  if (!guitar || !speech || !first) throw new Error("The project is not as it should be.");
  await project.run(
    projectId,
    { type: "track.add", track: newTrack("music", "Music", 2) },
    { type: "clip.add", clip: newClip("said", first.id, speech, 24000), chain: null },
    { type: "clip.add", clip: newClip("played", "music", guitar, 48000, { gainDb: -6 }), chain: null },
    {
      type: "step.add",
      owner: { table: "clips", id: "said" },
      chainId: "chain-said",
      step: newStep("louder", "gain", { gainDb: 6 }),
      before: null
    },
    { type: "section.add", section: newSection("s1", SECTIONS[0], 24000, 48000) },
    { type: "section.add", section: newSection("s2", SECTIONS[1], 72000, 36000) }
  );
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("a WAV file", () => {
  it("has a broadcast extension, sections and loudness, as other readers have them", async () => {
    const made = await mix("wav", {
      description: "A ferry, early",
      originator: "Harbour office",
      reference: "FD-0001",
      level: { of: "integrated", to: -20 },
      ceilingDbtp: -1
    });
    expect(made.fileName).toBe("Ferry at dawn mix.wav");
    expect(made.measurement.integratedLufs).toBeCloseTo(-20, 1);
    if (there("ffmpeg")) {
      const { format, streams, chapters } = probed(made.file);
      expect(streams[0]).toMatchObject({ codec_name: "pcm_s24le", sample_rate: "48000", channels: 2 });
      expect(format.tags).toMatchObject({ originator_reference: "FD-0001", time_reference: "0" });
      expect(format.tags?.coding_history).toContain("A=PCM,F=48000,W=24,M=stereo,T=Wring");
      expect(chapters.map((c) => c.tags?.title)).toEqual(SECTIONS);
      expect(chapters.map((c) => Number(c.start_time))).toEqual([0.5, 1.5]);
      const own = metered(made.file);
      expect(own.lufs).toBeCloseTo(-20, 0);
      expect(own.peak).toBeLessThanOrEqual(-0.9);
    }
    if (there("mediainfo")) {
      const text = execFileSync("mediainfo", ["--Output=JSON", made.file]).toString();
      // By EBU Tech 3285 version 2 to a hundredth.
      const shown = (value: number | null) => (value === null ? "" : value.toFixed(2));
      expect(text).toContain(`"LoudnessValue": "${shown(made.measurement.integratedLufs)}"`);
      expect(text).toContain(`"MaxTruePeakLevel": "${shown(made.measurement.truePeakDbtp)}"`);
      expect(text).toContain("Harbour office");
    }
    if (there("sndfile-info")) {
      const text = execFileSync("sndfile-info", [made.file]).toString();
      expect(text).toMatch(/Count : 2[\s\S]*Pos : 24000[\s\S]*Pos : 72000/);
      for (const name of SECTIONS) expect(text).toContain(name);
      expect(execFileSync("sndfile-info", ["--broadcast", made.file]).toString()).toContain("A ferry, early");
    }
  });

  it.each([
    ["int24", "int24"],
    ["float32", "float32"]
  ] as const)("as %s comes back through import sample for sample", async (bits, kind) => {
    const made = await mix("wav", { bits });
    const bytes = readFileSync(made.file);
    await importing(projectId, `again-${bits}.wav`, bytes);
    const again = await mix("wav", { bits });
    expect(readFileSync(again.file).subarray(700)).toEqual(bytes.subarray(700));
    const wav = new WavFile(made.file);
    expect(wav.layout).toMatchObject({ kind, channels: 2 });
    wav.close();
  });

  it("places stems and clips by their time reference, and stems add up to the mix", async () => {
    const ids = tracksInOrder(await project.documentNow(projectId)).map((t) => t.id);
    const stems = await delivered({ what: "tracks", ids }, settings("wav", { bits: "float32" }));
    const whole = ownSamples((await mix("wav", { bits: "float32" })).file);
    expect(stems.map((s) => s.frames)).toEqual([whole.length / 2, whole.length / 2]);
    const sounds = stems.map((s) => ownSamples(s.file));
    let worst = 0;
    whole.forEach((x, i) => (worst = Math.max(worst, Math.abs(x - sounds[0][i] - sounds[1][i]))));
    expect(worst).toBeLessThan(1e-6);
    expect(sounds[0].some((x) => Math.abs(x) > 0.05)).toBe(true);
    const [clip] = await delivered({ what: "clips", ids: ["said"] }, settings("wav", { bits: "float32" }));
    if (!clip) throw new Error("No clip.");
    // The clip's own step is heard in it: 6 dB more than its recording.
    const [recording] = await delivered(
      {
        what: "recordings",
        ids: [
          recordingsByName(await project.documentNow(projectId)).find((r) => r.name === "speech")?.id ?? ""
        ]
      },
      settings("wav", { bits: "float32" })
    );
    if (!recording) throw new Error("No recording.");
    expect((clip.measurement.integratedLufs ?? 0) - (recording.measurement.integratedLufs ?? 0)).toBeCloseTo(
      6,
      2
    );
    if (there("ffmpeg")) expect(probed(clip.file).format.tags?.time_reference).toBe("24000");
  });

  it("cuts silence away, adds some, fades, folds to mono and changes its rate", async () => {
    const made = await mix("wav", {
      bits: "float32",
      sampleRate: 96000,
      channels: "mono",
      trimBelowDb: -60,
      silenceBefore: 0.25,
      silenceAfter: 0.5,
      fadeIn: 0.01
    });
    const samples = ownSamples(made.file);
    expect([made.sampleRate, made.channels]).toEqual([96000, 1]);
    expect(samples.subarray(0, 24000).every((x) => x === 0)).toBe(true);
    expect(samples.subarray(-48000).every((x) => x === 0)).toBe(true);
    // The sound itself begins at half a second of the timeline: that silence is gone.
    const first = samples.findIndex((x) => Math.abs(x) > 0.001);
    expect(first).toBeGreaterThan(24000);
    expect(first).toBeLessThan(24000 + 9600);
  });
});

describe.runIf(there("ffmpeg"))("coded files", () => {
  it.each(["int16", "int24"] as const)("FLAC as %s holds the very samples of the WAV file", async (bits) => {
    const flac = await mix("flac", { bits });
    const wav = await mix("wav", { bits });
    expect(samplesOf(flac.file)).toEqual(ownSamples(wav.file));
    const { streams } = probed(flac.file);
    expect(streams[0]).toMatchObject({
      codec_name: "flac",
      bits_per_raw_sample: bits === "int16" ? "16" : "24"
    });
    const { chapters } = probed(flac.file);
    expect(chapters.map((c) => [c.tags?.title, Number(c.start_time)])).toEqual([
      [SECTIONS[0], 0.5],
      [SECTIONS[1], 1.5]
    ]);
  });

  it.each([
    ["mp3", { kbps: 128 }, "mp3"],
    ["mp3", { mode: "variable", quality: 4 }, "mp3"],
    ["opus", { kbps: 64 }, "opus"],
    ["vorbis", { quality: 4 }, "vorbis"],
    ["aac", { kbps: 128 }, "aac"]
  ] as const)(
    "%s %o keeps length, place, tags and chapters, and its ceiling holds",
    async (coding, how, codec) => {
      const tags = {
        ...standardSettings().tags,
        title: 'A = b; #"quoted"',
        artist: "Ærø & Søn",
        date: "2031"
      };
      const made = await mix(coding, { ...how, tags, level: { of: "true-peak", to: -1 }, ceilingDbtp: -1 });
      const { streams, chapters, format } = probed(made.file);
      const all = { ...format.tags, ...streams[0]?.tags };
      const tag = (name: string) => all[name] ?? all[name.toUpperCase()];
      expect(streams[0]).toMatchObject({ codec_name: codec, sample_rate: "48000", channels: 2 });
      expect([tag("title"), tag("artist")]).toEqual([tags.title, tags.artist]);
      expect(chapters.map((c) => c.tags?.title)).toEqual(SECTIONS);
      expect(Number(chapters[1]?.start_time)).toBeCloseTo(1.5, 2);
      const wav = await mix("wav", { bits: "float32" });
      expect(made.frames).toBe(wav.frames);
      expect(made.measurement.truePeakDbtp).toBeLessThanOrEqual(-0.995);
      expect(made.measurement.truePeakDbtp).toBeGreaterThan(-1.6);
      expect(metered(made.file).peak).toBeLessThanOrEqual(-0.8);
      // Decoded by ffmpeg it is the same sound at the same place.
      const [a, b] = [samplesOf(made.file), ownSamples(wav.file)];
      let [cross, power, other] = [0, 0, 0];
      for (let i = 0; i < b.length; i++) {
        cross += a[i] * b[i];
        power += a[i] * a[i];
        other += b[i] * b[i];
      }
      expect(cross / Math.sqrt(power * other)).toBeGreaterThan(0.98);
    }
  );

  it.each(["mp3", "aac", "flac", "opus", "vorbis"] as const)(
    "a cover is in %s, byte for byte",
    async (coding) => {
      const picture = longPicture();
      const made = await mix(coding, { cover: `data:image/png;base64,${picture.toString("base64")}` });
      const stream = probed(made.file).streams.find((s) => s.codec_name === "png");
      expect(stream?.disposition?.attached_pic).toBe(1);
      const args = [
        "-v",
        "error",
        "-i",
        made.file,
        "-map",
        "0:v",
        "-c",
        "copy",
        "-f",
        "image2pipe",
        "pipe:1"
      ];
      expect(execFileSync("ffmpeg", args, { maxBuffer: 1 << 24 }).equals(picture)).toBe(true);
    }
  );

  it("each section is a file of its own, as long as it is, and all come in one ZIP", async () => {
    const made = await delivered(
      { what: "sections", ids: ["s2", "s1"] },
      settings("flac", { pattern: "{number} {name} {rate}" })
    );
    expect(made.map((m) => [m.fileName, m.frames])).toEqual([
      ["01 Harbour, morning 48k.flac", 48000],
      ["02 Überfahrt = 2; #_3 48k.flac", 36000]
    ]);
    const jobs = (await deliveriesOf(projectId)).filter((d) => made.some((m) => m.fileName === d.fileName));
    const { name, stream } = await archiveOf(
      projectId,
      jobs.map((d) => d.job.id)
    );
    const parts: Uint8Array[] = [];
    for await (const part of stream) parts.push(part as Uint8Array);
    const bytes = Buffer.concat(parts);
    expect(name).toBe("Ferry at dawn.zip");
    for (const { file, fileName } of made) {
      expect(bytes.includes(Buffer.from(fileName))).toBe(true);
      expect(bytes.includes(readFileSync(file))).toBe(true);
    }
  });
});

describe("orders", () => {
  it("never give two files one name", async () => {
    const [a] = await delivered({ what: "mix" }, settings("wav", { pattern: "same" }));
    const [b] = await delivered({ what: "mix" }, settings("wav", { pattern: "same" }));
    expect([a?.fileName, b?.fileName]).toEqual(["same.wav", "same 2.wav"]);
  });

  it.each([
    ["a rate that a coding has not", settings("mp3", { sampleRate: 96000 }), /MP3 has no 96 kHz/],
    ["float samples in FLAC", settings("flac", { bits: "float32" }), /FLAC holds no 32-bit float samples/],
    ["too few bits", settings("aac", { kbps: 32 }), /M4A \(AAC\) takes 64 to 320 kbit\/s, not 32/],
    [
      "an unknown field",
      settings("wav", { pattern: "{project} {colour}" }),
      /"\{colour\}" is no field of a name/
    ]
  ])("with %s are refused with a sentence", async (_what, how, sentence) => {
    await expect(orderDelivery(projectId, { wanted: { what: "mix" }, settings: how })).rejects.toThrow(
      sentence
    );
  });

  it("for what is not there are refused", async () => {
    const order = { wanted: { what: "sections" as const, ids: ["gone"] }, settings: settings("wav") };
    await expect(orderDelivery(projectId, order)).rejects.toThrow(/There is nothing to deliver/);
  });
});

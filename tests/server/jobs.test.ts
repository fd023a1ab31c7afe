// Import, render, restore, measure and export through the server's services, with its worker threads.
import { folder } from "./folder";
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { newClip } from "../../src/lib/core/session/document";
import { clipState } from "../../src/lib/core/session/clipState";
import type { Document } from "../../src/lib/core/session/schema";
import type { ExportView, JobView, MeasureView, NewJob } from "../../src/lib/api/types";
import { config } from "../../src/lib/server/config";
import { closeDatabase, database } from "../../src/lib/server/db/connection";
import { exportPath, payloadOf } from "../../src/lib/server/jobs/handlers";
import { cancelJob, findJob, resumeJobs, startJob } from "../../src/lib/server/jobs/jobs";
import { closePool } from "../../src/lib/server/jobs/pool";
import { ChunkReader, FileSource } from "../../src/lib/server/media/fileSource";
import { WavFile } from "../../src/lib/server/media/wavFile";
import { overviewBins } from "../../src/lib/server/services/audio";
import { edit, stepThroughHistory } from "../../src/lib/server/services/edits";
import { createProject, projectState } from "../../src/lib/server/services/projects";
import { filesOf } from "../../src/lib/server/services/recordings";
import { Producer } from "../../src/lib/playback/producer";
import { bundleWorker } from "../../scripts/vite/bundle.js";
import { EVERY_EFFECT, noise, sine } from "../core/signals";
import { riff, wav16 } from "../core/wavBytes";

let projectId = "";

async function ended(id: string): Promise<JobView> {
  for (;;) {
    const job = await findJob(id);
    if (job.state !== "queued" && job.state !== "running") return job;
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}

/** What an upload leaves for the import job. */
function uploaded(bytes: Uint8Array): string {
  const id = `upload${Math.floor(performance.now() * 1000)}`;
  mkdirSync(path.join(folder, "uploads"), { recursive: true });
  writeFileSync(path.join(folder, "uploads", id), bytes);
  return id;
}

async function importBytes(fileName: string, bytes: Uint8Array): Promise<JobView> {
  const job = await startJob(
    projectId,
    { kind: "import", uploadId: uploaded(bytes), fileName },
    `Import ${fileName}`
  );
  return ended(job.id);
}

async function order(what: NewJob): Promise<JobView> {
  const { payload, title } = await payloadOf(projectId, what);
  return ended((await startJob(projectId, payload, title)).id);
}

async function document(): Promise<Document> {
  return (await projectState(projectId)).document;
}

async function run(command: Parameters<typeof edit>[2]): Promise<Document> {
  const { revision } = await projectState(projectId);
  return (await edit(projectId, revision, command)).document;
}

function samplesOf(file: string): Float32Array {
  const wav = new WavFile(file);
  const { frames, channels } = wav.layout;
  const planar = new KernelBuffer(frames * channels * 4);
  wav.read(0, frames, planar.ptr, frames * 4);
  const out = planar.f32.slice(0, frames * channels);
  wav.close();
  planar.release();
  return out;
}

async function exported(
  from: number,
  to: number
): Promise<{ samples: Float32Array; view: ExportView; id: string }> {
  const job = await order({ kind: "export", from, to, format: "float32", dither: false });
  expect(job.error).toBeNull();
  return { samples: samplesOf(exportPath(job.id)), view: job.result as ExportView, id: job.id };
}

/** Every file below the data folder that is not the database's. */
function mediaFiles(): string[] {
  const media = path.join(folder, "media");
  return existsSync(media)
    ? readdirSync(media, { recursive: true })
        .map(String)
        .filter((f) => f.includes("."))
    : [];
}

beforeAll(async () => {
  config.workerFile = path.join(folder, "worker", "worker.mjs");
  await bundleWorker(path.join(folder, "worker"));
  // External packages are found from here.
  const modules = path.resolve("node_modules");
  const { symlinkSync } = await import("node:fs");
  symlinkSync(modules, path.join(folder, "node_modules"));
  projectId = await createProject("Test", 48000);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("import", () => {
  it("makes a recording with a waveform from a WAV file at another rate, and keeps the original", async () => {
    const bytes = wav16(sine(440, -6, 44100, 44100), 44100);
    const job = await importBytes("Tone.wav", bytes);
    expect(job.error).toBeNull();
    const [recording] = (await document()).recordings;
    expect(recording).toMatchObject({
      name: "Tone",
      frames: 48000,
      channels: 1,
      sampleRate: 44100,
      kind: "import"
    });
    const bins = new Int8Array((await overviewBins(recording.id, 48000, 0, 0, 10)).buffer);
    expect(Math.max(...bins)).toBeGreaterThan(60);
    expect(Math.max(...bins)).toBeLessThan(67);
    const original = mediaFiles().find((f) => /[0-9a-f]{64}\.wav$/.test(f)) ?? "";
    expect(new Uint8Array(readFileSync(path.join(folder, "media", original)))).toEqual(bytes);
  });

  it("rebuilds overview and conformed file when they are lost", async () => {
    const [recording] = (await document()).recordings;
    const before = await overviewBins(recording.id, 48000, 1, 0, 5);
    const { rmSync } = await import("node:fs");
    for (const f of mediaFiles().filter((name) => name.includes(".48000.")))
      rmSync(path.join(folder, "media", f));
    expect(await overviewBins(recording.id, 48000, 1, 0, 5)).toEqual(before);
  });

  const floats = (...values: number[]) => riff({ tag: 3, bits: 32, floats: values });
  it.each([
    ["letter.wav", new TextEncoder().encode("Dear all, this is not a sound."), "it is not a WAV audio file"],
    ["cut.wav", wav16(sine(440, -6, 4000)).subarray(0, 3000), "truncated"],
    ["nine.wav", riff({ channels: 9 }), "9 channels"],
    ["none.wav", riff({ channels: 0 }), "no channels"],
    ["slow.wav", riff({ rate: 100 }), "100 Hz"],
    ["nan.wav", floats(0, 0.5, NaN, 0), "sample 2 (at 0.000 s) is not a number or infinite"],
    ["infinite.wav", floats(0, 0.5, 0, -Infinity), "sample 3 (at 0.000 s) is not a number or infinite"]
  ])("refuses %s with one sentence and leaves nothing behind", async (fileName, bytes, reason) => {
    const before = mediaFiles();
    const recordings = (await document()).recordings.length;
    const job = await importBytes(fileName, bytes);
    expect(job.state).toBe("failed");
    expect(job.error).toMatch(new RegExp(`^"${fileName}" was not imported: .*\\.$`));
    expect(job.error).toContain(reason);
    expect(mediaFiles()).toEqual(before);
    expect(readdirSync(path.join(folder, "uploads"))).toEqual([]);
    expect((await document()).recordings.length).toBe(recordings);
  });

  it("refuses the same sound a second time, naming the one that is here", async () => {
    const job = await importBytes("Again.wav", wav16(sine(440, -6, 44100, 44100), 44100));
    expect(job.error).toBe('"Again.wav" was not imported: the same sound is already here as "Tone".');
    expect((await document()).recordings.length).toBe(1);
  });

  it("is undone and redone like any edit", async () => {
    const { revision, undo } = await projectState(projectId);
    expect(undo).toBe("import Tone");
    const undone = await stepThroughHistory(projectId, revision, "undo");
    expect(undone.document.recordings).toEqual([]);
    expect(undone.redo).toBe("import Tone");
    const redone = await stepThroughHistory(projectId, undone.revision, "redo");
    expect(redone.document.recordings.length).toBe(1);
  });
});

describe("a treated clip", () => {
  const clipId = "speech";
  const steps = EVERY_EFFECT.map((s, i) => ({ ...s, id: `s${i}`, params: { ...s.params } }));

  beforeAll(async () => {
    const voice = noise(48000 * 4, 0.2, 3).map((x, i) => x * Math.sin(i / 9000) ** 2);
    expect((await importBytes("Voice.wav", wav16(voice))).error).toBeNull();
    const recording = (await document()).recordings.find((r) => r.name === "Voice");
    if (!recording) throw new Error("no recording");
    const clip = {
      ...newClip(clipId, recording, 12000),
      offset: 48000,
      length: 96000,
      steps,
      gainDb: -1,
      fadeIn: { length: 4800, curve: "sShaped" as const },
      fadeOut: { length: 9600, curve: "equalPower" as const }
    };
    await run({ type: "clip.add", trackId: "track-1", clip });
    const tone = (await document()).recordings.find((r) => r.name === "Tone");
    if (!tone) throw new Error("no tone");
    await run({
      type: "clip.add",
      trackId: "track-1",
      clip: { ...newClip("tone", tone, 30000), gainDb: -12 }
    });
  });

  it.each([
    [0, 120000],
    [31111, 99000]
  ])(
    "preview ≡ export: frames %i to %i of the playback's producer equal the server's export, difference 0",
    async (from, to) => {
      const doc = await document();
      const source = new FileSource(await filesOf(doc), doc.sampleRate);
      const producer = new Producer(doc, source, from, null);
      const block = new StereoBlock(BLOCK);
      const preview = new Float32Array((to - from) * 2);
      for (let at = 0; at < to - from;) {
        const n = producer.next(block.left.ptr, block.right.ptr, Math.min(333, to - from - at));
        preview.set(block.left.f32.subarray(0, n), at);
        preview.set(block.right.f32.subarray(0, n), to - from + at);
        at += n;
      }
      producer.release();
      source.close();
      const { samples } = await exported(from, to);
      expect(preview.some((x) => Math.abs(x) > 0.01)).toBe(true);
      expect(samples).toEqual(preview);
    }
  );

  it("render and restore leave the sound sample for sample as it was", async () => {
    const before = (await exported(0, 130000)).samples;
    const job = await order({ kind: "render", clipId, handleSeconds: 0.5, tail: "auto" });
    expect(job.error).toBeNull();
    const doc = await document();
    const clip = doc.tracks[0].clips.find((c) => c.id === clipId);
    if (!clip?.render) throw new Error("no render");
    expect(clipState(clip)).toBe("rendered");
    expect(doc.recordings.find((r) => r.id === clip.render?.recordingId)).toMatchObject({
      name: "Voice, rendered",
      kind: "render"
    });
    expect(clip.render.origin).toBe(24000);
    expect((await exported(0, 130000)).samples).toEqual(before);
    await run({ type: "clip.restore", clipIds: [clipId] });
    expect((await exported(0, 130000)).samples).toEqual(before);
  });

  it("is measured with and without its treatment, and normalized to 0.01 dB", async () => {
    const measure = async () => (await order({ kind: "measure", clipId })).result as MeasureView;
    const { treated, untreated } = await measure();
    expect(treated.integratedLufs).toBeGreaterThan((untreated.integratedLufs ?? 0) + 3);
    const gainDb = -1 + (-16 - (treated.integratedLufs ?? 0));
    await run({ type: "clip.normalize", clipId, gainDb, target: "-16 LUFS" });
    const after = (await measure()).treated;
    expect(Math.abs((after.integratedLufs ?? 0) + 16)).toBeLessThan(0.01);
  });

  it("export → import is sample-exact at 32-bit float", async () => {
    const { id, samples } = await exported(0, 130000);
    const job = await importBytes("Mixdown.wav", new Uint8Array(readFileSync(exportPath(id))));
    expect(job.error).toBeNull();
    const doc = await document();
    const recording = doc.recordings.find((r) => r.name === "Mixdown");
    if (!recording) throw new Error("no recording");
    const file = (await filesOf(doc))[recording.id];
    expect(samplesOf(file)).toEqual(samples);
    const reader = new ChunkReader(file);
    const chunk = new StereoBlock(32768);
    reader.read(1, chunk.left.ptr, chunk.right.ptr);
    expect(chunk.left.f32).toEqual(samples.subarray(32768, 65536));
    reader.close();
    chunk.release();
  });

  it("refuses to render a clip without steps that are on, to export nothing, and what is not there", async () => {
    await expect(
      payloadOf(projectId, { kind: "render", clipId: "tone", handleSeconds: 1, tail: 0 })
    ).rejects.toThrow("nothing to render");
    await expect(
      payloadOf(projectId, { kind: "export", from: 5, to: 5, format: "int16", dither: true })
    ).rejects.toThrow("empty");
    await expect(payloadOf(projectId, { kind: "measure", clipId: "gone" })).rejects.toThrow(
      "no longer there"
    );
  });
});

describe("jobs", () => {
  it("stop when they are cancelled, and leave nothing", async () => {
    const { payload, title } = await payloadOf(projectId, {
      kind: "export",
      from: 0,
      to: 48000 * 3600,
      format: "float32",
      dither: false
    });
    const { id } = await startJob(projectId, payload, title);
    while ((await findJob(id)).state === "queued") await new Promise((resolve) => setTimeout(resolve, 5));
    await cancelJob(id);
    expect((await ended(id)).state).toBe("cancelled");
    expect(existsSync(exportPath(id))).toBe(false);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(existsSync(path.join(folder, "scratch", id))).toBe(false);
    await expect(cancelJob(id)).rejects.toThrow("already ended");
  });

  it("that were under way when Wring was closed run again; measurements are cleared with a message", async () => {
    const { models } = await database();
    const base = { projectId, title: "Export Test", progress: 0.3, result: null, error: null };
    const { payload } = await payloadOf(projectId, {
      kind: "export",
      from: 0,
      to: 48000,
      format: "int16",
      dither: true
    });
    await models.Job.create({
      ...base,
      id: "left-export",
      kind: "export",
      state: "running",
      payload: JSON.stringify(payload)
    });
    await models.Job.create({
      ...base,
      id: "left-measure",
      kind: "measure",
      title: "Measure x",
      state: "running",
      payload: "{}"
    });
    await resumeJobs();
    expect((await ended("left-export")).state).toBe("done");
    expect((await findJob("left-measure")).error).toContain("was stopped when Wring was closed");
  });

  it("do not start beyond the limit of the data folder, and say so", async () => {
    config.maxBytes = 1000;
    const job = await order({ kind: "export", from: 0, to: 48000, format: "int16", dither: true });
    config.maxBytes = Infinity;
    expect(job.state).toBe("failed");
    expect(job.error).toMatch(
      /^The mix was not exported: it needs 0\.2 MB, but only 0\.0 MB of the space for Wring's data is left\.$/
    );
  });
});

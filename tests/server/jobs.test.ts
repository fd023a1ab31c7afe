// Import, render, restore, measure and export through the server's services, with its worker threads.
import { folder } from "./folder";
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { findClip, recordingsByName } from "../../src/lib/core/session/lookup";
import { Plan } from "../../src/lib/core/render/graph";
import { clipState } from "../../src/lib/core/session/clipState";
import type { Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import type { Recording } from "../../src/lib/core/session/schema";
import type { ExportView, MeasureView, NewJob } from "../../src/lib/api/jobs";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { exportPath } from "../../src/lib/server/jobs/kinds/export";
import { startJob } from "../../src/lib/server/jobs/order";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { closePool } from "../../src/lib/server/jobs/pool";
import { ChunkReader, FileSource } from "../../src/lib/server/media/fileSource";
import { WavFile } from "../../src/lib/server/media/wavFile";
import { OVERVIEW_SCALE } from "../../src/lib/core/audio/overview";
import { overviewBins } from "../../src/lib/server/services/audio";
import { createProject, projectState } from "../../src/lib/server/services/projects";
import * as project from "../support/project";
import { filesOf } from "../../src/lib/server/services/recordings";
import { Producer } from "../../src/lib/playback/producer";
import { importing, mediaFiles, ordered, rendered } from "../support/jobs";
import { useThreads } from "../support/threads";
import { EVERY_EFFECT, fade, noise, sine } from "../core/signals";
import { riff, wav16 } from "../core/wavBytes";

let projectId = "";

const importBytes = (fileName: string, bytes: Uint8Array) => importing(projectId, fileName, bytes);
const order = (what: NewJob) => ordered(projectId, what);

async function document(): Promise<Document> {
  return project.documentNow(projectId);
}

const run = (command: Command) => project.run(projectId, command);

async function named(name: string): Promise<Recording> {
  const found = recordingsByName(await document()).find((r) => r.name === name);
  if (!found) throw new Error(`There is no recording ${name}.`);
  return found;
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

function allFiles(doc: Document): ReturnType<typeof filesOf> {
  const ids = recordingsByName(doc).map((r) => r.id);
  return filesOf(ids, doc.sampleRate, (id) => id);
}

async function exported(
  from: number,
  to: number
): Promise<{ samples: Float32Array; view: ExportView; id: string }> {
  const job = await order({ kind: "export", from, to, format: "float32", dither: false });
  expect(job.error).toBeNull();
  return { samples: samplesOf(exportPath(job.id)), view: job.result as ExportView, id: job.id };
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
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
    const recording = await named("Tone");
    expect(recording).toMatchObject({
      name: "Tone",
      frames: 48000,
      channels: 1,
      sampleRate: 44100,
      kind: "import"
    });
    const bins = new Int16Array((await overviewBins(recording.id, 48000, 2, 0, 10)).buffer);
    expect(Math.max(...bins)).toBeGreaterThan(0.47 * OVERVIEW_SCALE);
    expect(Math.max(...bins)).toBeLessThan(0.53 * OVERVIEW_SCALE);
    const original = mediaFiles().find((f) => /[0-9a-f]{64}\.wav$/.test(f)) ?? "";
    expect(new Uint8Array(readFileSync(path.join(folder, "media", original)))).toEqual(bytes);
  });

  it("rebuilds overview and conformed file when they are lost", async () => {
    const recording = await named("Tone");
    const before = await overviewBins(recording.id, 48000, 1, 0, 5);
    const { rmSync } = await import("node:fs");
    for (const f of mediaFiles().filter((name) => name.includes(".48000.")))
      rmSync(path.join(folder, "media", f));
    expect(await overviewBins(recording.id, 48000, 1, 0, 5)).toEqual(before);
  });

  const floats = (...values: number[]) => riff({ tag: 3, bits: 32, floats: values });
  it.each([
    ["letter.wav", new TextEncoder().encode("Dear all, this is not a sound."), "no sound that can be read"],
    ["cut.wav", wav16(sine(440, -6, 4000)).subarray(0, 3000), "truncated"],
    ["nine.wav", riff({ channels: 9 }), "9 channels"],
    ["none.wav", riff({ channels: 0 }), "no channels"],
    ["slow.wav", riff({ rate: 100 }), "100 Hz"],
    ["nan.wav", floats(0, 0.5, NaN, 0), "sample 2 (at 0.000 s) is not a number or infinite"],
    ["infinite.wav", floats(0, 0.5, 0, -Infinity), "sample 3 (at 0.000 s) is not a number or infinite"]
  ])("refuses %s with one sentence and leaves nothing behind", async (fileName, bytes, reason) => {
    const before = mediaFiles();
    const recordings = (await document()).size("recordings");
    const job = await importBytes(fileName, bytes);
    expect(job.state).toBe("failed");
    expect(job.error).toMatch(new RegExp(`^"${fileName}" was not imported: .*\\.$`));
    expect(job.error).toContain(reason);
    expect(mediaFiles()).toEqual(before);
    expect(readdirSync(path.join(folder, "uploads"))).toEqual([]);
    expect((await document()).size("recordings")).toBe(recordings);
  });

  it("takes the same sound a second time as the one that is here, and names it", async () => {
    const job = await importBytes("Again.wav", wav16(sine(440, -6, 44100, 44100), 44100));
    expect([job.error, job.result]).toEqual([
      null,
      expect.objectContaining({ same: "Tone", fileName: "Again.wav" })
    ]);
    expect((await document()).size("recordings")).toBe(1);
  });

  it("is undone and redone like any edit", async () => {
    const { history } = await projectState(projectId);
    expect(history.undo.at(-1)).toMatchObject({ label: "import Tone", page: null });
    expect(history.undo.at(-1)?.job).not.toBeNull();
    expect((await project.step(projectId, "undo")).size("recordings")).toBe(0);
    expect((await projectState(projectId)).history.redo.at(-1)?.label).toBe("import Tone");
    expect((await project.step(projectId, "redo")).size("recordings")).toBe(1);
  });
});

describe("a treated clip", () => {
  const clipId = "speech";
  const steps = EVERY_EFFECT.map((s, i) => newStep(`s${i}`, s.effect, s.params, s.on));

  beforeAll(async () => {
    const voice = noise(48000 * 4, 0.2, 3).map((x, i) => x * Math.sin(i / 9000) ** 2);
    expect((await importBytes("Voice.wav", wav16(voice))).error).toBeNull();
    const clip = newClip(clipId, "track-1", await named("Voice"), 12000, {
      offset: 48000,
      length: 96000,
      chain: "every",
      gainDb: -1,
      fadeIn: fade(4800, "sShaped"),
      fadeOut: fade(9600, "equalPower")
    });
    await run({ type: "clip.add", clip, chain: newChain("every", steps) });
    const tone = newClip("tone", "track-1", await named("Tone"), 30000, { gainDb: -12 });
    await run({ type: "clip.add", clip: tone, chain: null });
  });

  it.each([
    [0, 120000],
    [31111, 99000]
  ])(
    "preview ≡ export: frames %i to %i of the playback's producer equal the server's export, difference 0",
    async (from, to) => {
      const doc = await document();
      const source = new FileSource(await allFiles(doc), doc.sampleRate);
      const producer = new Producer(new Plan(doc), source, from, null);
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
    const job = await rendered(projectId, clipId, 0.5, "auto");
    expect(job.error).toBeNull();
    const doc = await document();
    const clip = findClip(doc, clipId)?.clip;
    if (!clip?.render) throw new Error("no render");
    expect(clipState(clip)).toBe("rendered");
    expect(doc.get("recordings", clip.render.recordingId)).toMatchObject({
      name: `Voice, Gain, Parametric EQ, Compressor and ${EVERY_EFFECT.length - 3} more 1`,
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
    const recording = await named("Mixdown");
    const file = (await allFiles(doc))[recording.id] ?? "";
    expect(samplesOf(file)).toEqual(samples);
    const reader = new ChunkReader(file);
    const chunk = new StereoBlock(32768);
    reader.read(1, chunk.left.ptr, chunk.right.ptr);
    expect(chunk.left.f32).toEqual(samples.subarray(32768, 65536));
    reader.close();
    chunk.release();
  });

  it("refuses to render a clip without steps that are on, to export nothing, and what is not there", async () => {
    await expect(rendered(projectId, "tone", 1, 0)).rejects.toThrow(
      '"Tone" has no step that is on: there is nothing to render.'
    );
    await expect(
      startJob(projectId, { kind: "export", from: 5, to: 5, format: "int16", dither: true })
    ).rejects.toThrow("empty");
    await expect(startJob(projectId, { kind: "measure", clipId: "gone" })).rejects.toThrow("no longer there");
  });
});

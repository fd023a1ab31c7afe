// Puts the demo into the data folder of the environment: sounds, project, renders, presets.
import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { resampled } from "$lib/core/audio/resampler";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { applyCommand } from "$lib/core/session/apply";
import type { Document, Recording } from "$lib/core/session/schema";
import { config } from "$lib/server/config";
import { closeDatabase } from "$lib/server/db/connection";
import { renderTask } from "$lib/server/jobs/tasks/renderClip";
import { ingest } from "$lib/server/media/ingest";
import { WavFile, WavWriter } from "$lib/server/media/wavFile";
import { savePreset } from "$lib/server/services/presets";
import { listProjects, storeProject } from "$lib/server/services/projects";
import { filesOf, registerRecording } from "$lib/server/services/recordings";
import { CHAINS, demoDocument, type Shelf } from "./project";
import { bell, engine, interview, RATE, scaled, telephone, theme, wind, type Mono } from "./sounds";

const VOICES = path.resolve("src/demo/voices");
const scratch = path.join(config.dataFolder, "scratch", "demo");

function readMono(name: string): { samples: Mono; rate: number } {
  const file = new WavFile(path.join(VOICES, `${name}.wav`));
  const { frames, sampleRate } = file.layout;
  const planar = new KernelBuffer(frames * 4);
  file.read(0, frames, planar.ptr, frames * 4);
  const samples = planar.f32.slice(0, frames) as Mono;
  planar.release();
  file.close();
  return { samples, rate: sampleRate };
}

function atDemoRate(name: string): Mono {
  const { samples, rate } = readMono(name);
  return resampled([samples], rate, RATE)[0] as Mono;
}

function writeWav(channels: readonly Mono[], rate: number): string {
  const file = path.join(scratch, "sound.wav");
  rmSync(file, { force: true });
  const frames = channels[0].length;
  const writer = new WavWriter(file, "int24", channels.length, rate, true);
  const planar = new KernelBuffer(frames * 4 * channels.length);
  channels.forEach((c, i) => planar.f32.set(c, i * frames));
  writer.write(planar.ptr, frames * 4, frames);
  writer.finish();
  planar.release();
  return file;
}

async function add(name: string, channels: readonly Mono[], rate = RATE): Promise<Recording> {
  const { hash, layout, frames } = ingest(
    writeWav(channels, rate),
    config.dataFolder,
    RATE,
    scratch,
    () => undefined
  );
  const { sampleRate } = layout;
  const id = await registerRecording({
    hash,
    sampleRate,
    channels: layout.channels,
    frames: layout.frames,
    kind: "import"
  });
  return { id, name, frames, channels: layout.channels, sampleRate, kind: "import", madeFrom: null };
}

async function makeShelf(): Promise<Shelf> {
  const shelf: Record<string, Recording> = {};
  for (let n = 1; n <= 5; n++) {
    const { samples, rate } = readMono(`narrator-${n}`);
    shelf[`narrator${n}`] = await add(`Narrator ${n}`, [scaled(samples, 0.7)], rate);
  }
  shelf.interview = await add("Engineer interview (too low)", [
    interview([1, 2, 3].map((n) => atDemoRate(`engineer-${n}`)))
  ]);
  const calls = [1, 2].map((n) => readMono(`caller-${n}`));
  shelf.telephone = await add(
    "Harbour office, telephone",
    [
      telephone(
        calls.map((c) => c.samples),
        calls[0].rate
      )
    ],
    calls[0].rate
  );
  shelf.bell = await add("Quay bell", [bell()]);
  shelf.engine = await add("Engine room", engine());
  shelf.wind = await add("Wind", wind());
  shelf.theme = await add("Theme", theme());
  return shelf;
}

/** Renders a clip as the application does, and puts the render in place. */
async function rendered(doc: Document, name: string): Promise<Document> {
  const clip = doc.tracks.flatMap((t) => t.clips).find((c) => c.name === name);
  const recording = doc.recordings.find((r) => r.id === clip?.recordingId);
  if (!clip || !recording) throw new Error(`The demo has no clip ${name}.`);
  rmSync(path.join(scratch, "render.wav"), { force: true });
  const { hash, render } = renderTask(
    {
      kind: "render",
      dataFolder: config.dataFolder,
      scratch,
      clip,
      sampleRate: RATE,
      recordingFrames: recording.frames,
      handleFrames: 2 * RATE,
      tailFrames: "auto",
      files: await filesOf(doc)
    },
    () => undefined
  );
  const made = { sampleRate: RATE, channels: 2, frames: render.frames, kind: "render" as const };
  const id = await registerRecording({ hash, ...made });
  const steps = render.steps.map((s) => s.effect).join(", ");
  return applyCommand(doc, {
    type: "clip.render",
    clipId: clip.id,
    recording: { id, name: `${clip.name}, rendered`, ...made, madeFrom: `${recording.name}: ${steps}` },
    render: { ...render, recordingId: id }
  }).document;
}

/** Changes the limiter of a clip after it was rendered: its render no longer matches. */
function changedAfterwards(doc: Document, name: string): Document {
  const clip = doc.tracks.flatMap((t) => t.clips).find((c) => c.name === name);
  const limiter = clip?.steps.find((s) => s.effect === "limiter");
  if (!clip || !limiter) throw new Error(`The demo's clip ${name} has no limiter.`);
  return applyCommand(doc, { type: "step.set", clipId: clip.id, stepId: limiter.id, params: { gainDb: 11 } })
    .document;
}

async function seed(): Promise<void> {
  if ((await listProjects()).length > 0) return;
  mkdirSync(scratch, { recursive: true });
  let doc = demoDocument(await makeShelf());
  doc = await rendered(doc, "Engineer 1");
  doc = changedAfterwards(await rendered(doc, "Engineer 3"), "Engineer 3");
  await storeProject(doc);
  const withIds = (recipe: (typeof CHAINS)[keyof typeof CHAINS]) =>
    recipe.map((s, i) => ({ ...s, id: `s${i}`, params: { ...s.params } }));
  await savePreset({
    name: "Interview, recorded too low",
    notes: "Lifts a recording by some 30 dB, takes the rumble and the edge of the hiss off, evens it out.",
    steps: withIds(CHAINS.lowInterview)
  });
  await savePreset({
    name: "Telephone with hum",
    notes: "Cuts below the telephone band, where mains hum lives, and lifts the words.",
    steps: withIds(CHAINS.telephone)
  });
  rmSync(path.join(config.dataFolder, "scratch"), { recursive: true, force: true });
}

await seed();
await closeDatabase();

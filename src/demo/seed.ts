// Puts the demo into the data folder of the environment: sounds, project, renders, presets.
import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { resampled } from "$lib/core/audio/resampler";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { effectOf } from "$lib/core/effects/registry";
import { applyCommand } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newRecording, newStep } from "$lib/core/session/make";
import type { RecipeStep, Recording } from "$lib/core/session/schema";
import { config } from "$lib/server/config";
import { closeDatabase, write } from "$lib/server/db/connection";
import { FolderFault } from "$lib/server/db/folderFault";
import { renderTask } from "$lib/server/jobs/tasks/renderClip";
import { ingest } from "$lib/server/media/ingest";
import { recordingIdOf } from "$lib/server/media/paths";
import { MediaStore } from "$lib/server/media/store";
import { WavFile, WavWriter } from "$lib/server/media/wavFile";
import { savePreset } from "$lib/server/services/presets";
import { listProjects, storeProject } from "$lib/server/services/projects";
import {
  filesOf,
  recordingName,
  recordingsOfClips,
  registerRecordings,
  type NewRecording
} from "$lib/server/services/recordings";
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
  const writer = new WavWriter(file, "int24", channels.length, rate, "triangular");
  const planar = new KernelBuffer(frames * 4 * channels.length);
  channels.forEach((c, i) => planar.f32.set(c, i * frames));
  writer.write(planar.ptr, frames * 4, frames);
  writer.finish();
  planar.release();
  return file;
}

const store = new MediaStore(config.dataFolder);

/** Takes a finished file of the scratch folder into the store. Returns the recording's id. */
async function takeIn(file: string, recording: NewRecording): Promise<string> {
  store.adopt(file, recording.hash);
  store.adoptCaches(scratch);
  rmSync(file, { force: true });
  await write((models, transaction) => registerRecordings(models, transaction, [recording]));
  return recordingIdOf(recording.hash);
}

async function add(name: string, samples: readonly Mono[], rate = RATE): Promise<Recording> {
  const file = writeWav(samples, rate);
  const { hash, layout, frames } = ingest(file, config.dataFolder, RATE, scratch, () => undefined);
  const { sampleRate, channels } = layout;
  const id = await takeIn(file, { hash, sampleRate, channels, frames: layout.frames, kind: "import" });
  return newRecording(id, { name, media: hash, frames, channels, sampleRate, kind: "import" });
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

function clipNamed(doc: Document, name: string): ResolvedClip {
  for (const clip of doc.values("clips")) if (clip.name === name) return resolveClip(doc, clip);
  throw new Error(`The demo has no clip ${name}.`);
}

/** Renders a clip as the application does, and puts the render in place. */
async function rendered(doc: Document, name: string): Promise<Document> {
  const clip = clipNamed(doc, name);
  const source = doc.get("recordings", clip.recordingId);
  if (!source) throw new Error(`The demo's clip ${name} has no recording.`);
  const { hash, file, render } = renderTask(
    {
      kind: "render",
      dataFolder: config.dataFolder,
      scratch,
      clip,
      sampleRate: RATE,
      recordingFrames: source.frames,
      handleFrames: 2 * RATE,
      tailFrames: "auto",
      files: await filesOf(recordingsOfClips([clip]), RATE, (id) => recordingName(doc, id))
    },
    () => undefined
  );
  const made = { sampleRate: RATE, channels: 2, frames: render.frames, kind: "render" as const };
  const id = await takeIn(path.join(scratch, file), { hash, ...made });
  const text = `${source.name}: ${render.steps.map((s) => effectOf(s.effect).name).join(", ")}`;
  const window = { offset: render.origin, length: render.frames };
  return applyCommand(doc, {
    type: "clip.render",
    clipId: clip.id,
    recording: newRecording(
      id,
      { ...made, name: `${clip.name}, rendered`, media: hash },
      { text, source: source.id, window, steps: render.steps }
    ),
    render: { ...render, recordingId: id }
  }).document;
}

/** Changes the limiter of a clip after it was rendered: its render no longer matches. */
function changedAfterwards(doc: Document, name: string): Document {
  const { id, steps } = clipNamed(doc, name);
  const limiter = steps.find((s) => s.effect === "limiter");
  if (!limiter) throw new Error(`The demo's clip ${name} has no limiter.`);
  const owner = { table: "clips" as const, id };
  return applyCommand(doc, { type: "step.set", owner, stepId: limiter.id, params: { gainDb: 11 } }).document;
}

const ofPreset = (steps: readonly RecipeStep[]) =>
  steps.map((s, i) => newStep(`s${i}`, s.effect, s.params, s.on));

async function seed(): Promise<void> {
  if ((await listProjects()).length > 0) return;
  mkdirSync(scratch, { recursive: true });
  let doc = demoDocument(await makeShelf());
  doc = await rendered(doc, "Engineer 1");
  doc = changedAfterwards(await rendered(doc, "Engineer 3"), "Engineer 3");
  await storeProject(doc);
  await savePreset({
    name: "Interview, recorded too low",
    notes: "Lifts a recording by some 30 dB, takes the rumble and the edge of the hiss off, evens it out.",
    steps: ofPreset(CHAINS.lowInterview),
    recordings: []
  });
  await savePreset({
    name: "Telephone with hum",
    notes: "Cuts below the telephone band, where mains hum lives, and lifts the words.",
    steps: ofPreset(CHAINS.telephone),
    recordings: []
  });
  rmSync(path.join(config.dataFolder, "scratch"), { recursive: true, force: true });
}

try {
  await seed();
  await closeDatabase();
} catch (error) {
  if (!(error instanceof FolderFault)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exit(1);
}

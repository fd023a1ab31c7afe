// The project on which drawing is measured: 24 tracks, 2,000 clips with fades, crossfades, spans and gain lines, two hours, three steps each,
// real sound.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "$lib/core/session/make";
import type { Document } from "$lib/core/session/document";
import type { Recording } from "$lib/core/session/schema";
import { write } from "$lib/server/db/connection";
import { ingest } from "$lib/server/media/ingest";
import { recordingIdOf } from "$lib/server/media/paths";
import { MediaStore } from "$lib/server/media/store";
import { WavWriter } from "$lib/server/media/wavFile";
import { storeProject } from "$lib/server/services/projects";
import { registerRecordings } from "$lib/server/services/recordings";

const RATE = 48000;
const TRACKS = 24;
const CLIPS = 2000;
const HOURS = 2;
/** Seconds of a clip, and of a crossfade. */
const LENGTH = 50;
const CROSS = 2;
/** Seconds of each recording; there is one for each track. */
const SECONDS = 60;

/** Noise that swells and fades like speech. */
function sound(seed: number): Float32Array {
  let s = seed;
  return Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    const swell = Math.abs(Math.sin(i / 9000) * Math.sin(i / 70000));
    return (s / 2 ** 31 - 1) * 0.7 * swell;
  });
}

async function recordings(data: string): Promise<Recording[]> {
  const scratch = mkdtempSync(path.join(tmpdir(), "wring-bench-sound-"));
  const store = new MediaStore(data);
  const made: Recording[] = [];
  for (let n = 0; n < TRACKS; n++) {
    const file = path.join(scratch, "sound.wav");
    const samples = sound(n + 1);
    const writer = new WavWriter(file, "int16", 1, RATE, "triangular");
    const planar = new KernelBuffer(samples.length * 4);
    planar.f32.set(samples);
    writer.write(planar.ptr, samples.length * 4, samples.length);
    writer.finish();
    planar.release();
    const { hash, layout } = ingest(file, data, RATE, scratch, () => undefined);
    store.adopt(file, hash);
    store.adoptCaches(scratch);
    rmSync(file, { force: true });
    const { frames } = layout;
    const facts = { hash, sampleRate: RATE, channels: 1, frames, kind: "import" as const };
    await write((models, transaction) => registerRecordings(models, transaction, [facts]));
    made.push(
      newRecording(recordingIdOf(hash), {
        name: `Take ${n}`,
        media: hash,
        frames,
        channels: 1,
        sampleRate: RATE,
        kind: "import"
      })
    );
  }
  rmSync(scratch, { recursive: true, force: true });
  return made;
}

function documentWith(made: readonly Recording[]): Document {
  const perTrack = Math.ceil(CLIPS / TRACKS);
  const slot = Math.floor((HOURS * 3600 * RATE) / perTrack);
  const fade = (seconds: number) => ({
    length: Math.round(seconds * RATE),
    shape: { curve: "smooth" as const }
  });
  const clips = Array.from({ length: CLIPS }, (_, n) => {
    const track = n % TRACKS;
    const [recording] = made.slice(track % made.length);
    if (!recording) throw new Error("There is no recording.");
    const offset = (n % 8) * RATE;
    const row = Math.floor(n / TRACKS);
    // Two and two are crossfaded.
    const second = row % 2 === 1;
    const start = second ? (row - 1) * slot + (LENGTH - CROSS) * RATE : row * slot;
    const line = {
      join: n % 8 === 0 ? ("smooth" as const) : ("straight" as const),
      points: [0, 12, 25, 40].map((at, i) => ({ at: offset + at * RATE, value: -3 * i, bend: i }))
    };
    return newClip(`clip-${n}`, `track-${track}`, recording, start, {
      name: `Take ${n}`,
      length: LENGTH * RATE,
      offset,
      gainDb: -3 * (n % 3),
      chain: `chain-${n}`,
      fadeIn: second ? { ...fade(CROSS), shape: { curve: "levelPower", correlation: 0.3 } } : fade(0.02),
      fadeOut: second ? fade(0.05) : { ...fade(CROSS), shape: { curve: "levelPower", correlation: 0.3 } },
      ...(n % 4 === 0 ? { line } : {})
    });
  });
  const chains = clips.map((_, n) =>
    newChain(`chain-${n}`, [
      newStep(`step-${n}-a`, "gain", { gainDb: 3 }),
      {
        ...newStep(`step-${n}-b`, "parametric-eq", { on1: true, type1: "highPass", freq1: 90 }),
        span: n % 3 === 0 ? { from: 12 * RATE, to: 30 * RATE } : null
      },
      newStep(`step-${n}-c`, "limiter", { ceilingDb: -2 })
    ])
  );
  return documentOf(newProject("Two hours", RATE), {
    tracks: Array.from({ length: TRACKS }, (_, n) => newTrack(`track-${n}`, `Track ${n + 1}`, n)),
    clips,
    chains,
    recordings: [...made]
  });
}

/** Puts the project into a data folder; returns its id. */
export async function storeBigScreen(data: string): Promise<string> {
  return storeProject(documentWith(await recordings(data)));
}

// What sound costs: in proportion to what sounds, however much the project holds; and hearing what is long where it lies.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { BLOCK, StereoBlock } from "../src/lib/core/audio/block";
import { analysePart, type KeptPoint } from "../src/lib/core/render/clipAnalysis";
import { SheetMemory } from "../src/lib/core/render/sheetMemory";
import { Plan } from "../src/lib/core/render/graph";
import { MixStream } from "../src/lib/core/render/mix";
import type { SoundPart } from "../src/lib/core/render/soundPart";
import type { Source } from "../src/lib/core/render/source";
import { SpoolStream } from "../src/lib/core/render/spoolStream";
import { kernels } from "../src/lib/core/kernels/instance";
import { applyCommand } from "../src/lib/core/session/commands";
import type { Change } from "../src/lib/core/session/changes";
import type { Document } from "../src/lib/core/session/document";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "../src/lib/core/session/make";
import type { Step } from "../src/lib/core/session/schema";
import { FileSource } from "../src/lib/server/media/fileSource";
import { FileSpool } from "../src/lib/server/media/fileSpool";
import { noise } from "../tests/core/signals";
import { wavBytes } from "../tests/core/wavBytes";
import { speechLike } from "./speechLike";
import { median, row } from "./table";

const RATE = 48000;
const SOUNDING = 12;
const SECONDS = 10;
const TRACKS = 40;
const data = mkdtempSync(path.join(tmpdir(), "wring-bench-plan-"));

/** Noise at once, whatever is asked for. */
class NoiseSource implements Source {
  readonly #sound = new StereoBlock(8192);

  constructor() {
    const fill = (x: Float32Array) => x.forEach((_, i) => (x[i] = Math.sin(i * i) * 0.2));
    fill(this.#sound.left.f32);
    fill(this.#sound.right.f32);
  }

  read(_id: string, from: number, frames: number, left: number, right: number): void {
    const at = (((from % 4096) + 4096) % 4096) * 4;
    kernels.copy(left, this.#sound.left.ptr + at, frames);
    kernels.copy(right, this.#sound.right.ptr + at, frames);
  }
}

/** Twelve treated clips that sound from 0 to 10 s on twelve tracks, and as many others behind them as are wanted. */
function project(clips: number): Document {
  const facts = {
    name: "a",
    media: null,
    frames: 60 * RATE,
    channels: 2,
    sampleRate: RATE,
    kind: "import" as const
  };
  const recording = newRecording("a", facts);
  const track = (n: number) => `t${n % TRACKS}`;
  const all = Array.from({ length: clips }, (_, n) =>
    newClip(`c${n}`, track(n), recording, n < SOUNDING ? 0 : (20 + 5 * Math.floor(n / TRACKS)) * RATE, {
      length: n < SOUNDING ? SECONDS * RATE : 4 * RATE,
      chain: `ch${n}`
    })
  );
  return documentOf(newProject("Plan", RATE), {
    tracks: Array.from({ length: TRACKS }, (_, n) => newTrack(`t${n}`, `Track ${n}`, n)),
    clips: all,
    chains: all.map((_, n) =>
      newChain(`ch${n}`, [
        newStep(`s${n}`, "gain", { gainDb: -3 }),
        newStep(`e${n}`, "parametric-eq", { on1: true, type1: "highPass", freq1: 90, on2: true, gain2: -3 })
      ])
    ),
    recordings: [recording]
  });
}

const source = new NoiseSource();
const block = new StereoBlock(BLOCK);

/** Changes of a sounding clip, one after the other, as the real-time worker is told them. */
function changesOf(doc: Document, count: number): readonly Change[][] {
  let now = doc;
  return Array.from({ length: count }, (_, i) => {
    const applied = applyCommand(now, { type: "clip.set", clipIds: ["c3"], gainDb: -1 - (i % 12) });
    now = applied.document;
    return [...applied.changes];
  });
}

/** Milliseconds for reading ten seconds, with these changes on the way. */
function reading(plan: Plan, changes: readonly Change[][]): number {
  const mix = new MixStream(plan, source);
  const blocks = Math.floor((SECONDS * RATE) / BLOCK);
  const every = Math.floor(blocks / (changes.length + 1));
  const begin = performance.now();
  for (let i = 0; i < blocks; i++) {
    mix.read(block.left.ptr, block.right.ptr, BLOCK);
    const change = i % every === every - 1 ? changes[Math.floor(i / every)] : undefined;
    if (!change) continue;
    plan.update(plan.document.with(change), change);
    mix.update();
  }
  const time = performance.now() - begin;
  mix.release();
  return time;
}

function compare(what: string, changes: number): void {
  const [few, many] = [project(SOUNDING), project(20000)].map((doc) => ({
    plan: new Plan(doc),
    told: changesOf(doc, changes)
  }));
  const run = ({ plan, told }: { plan: Plan; told: readonly Change[][] }) => reading(plan, told);
  for (let i = 0; i < 5; i++) for (const one of [few, many]) run(one);
  const ratios = Array.from({ length: 21 }, () => {
    const alone = run(few);
    return run(many) / alone;
  });
  row(what, median(ratios), "× as long", undefined, 1.1);
}

compare("10 s of 12 clips: among 20,000, beside those 12 alone", 0);
compare("the same with 20 changes of a clip on the way", 20);

const MINUTES = 10;
const file = path.join(data, "long.wav");
const white = path.join(data, "white.wav");

function write(target: string, channels: Float32Array[]): void {
  writeFileSync(target, wavBytes({ channels, sampleRate: RATE, kind: "int24" }));
}

function hear(part: SoundPart, options: Parameters<typeof analysePart>[5] = {}, sound = file): number {
  const files = new FileSource({ a: sound }, RATE);
  const begin = performance.now();
  const analyser = analysePart(part, null, files, RATE, 600, options);
  while (!analyser.advance(1 << 17));
  analyser.result();
  analyser.release();
  files.close();
  return (performance.now() - begin) / 1000;
}

const part = (minutes: number, steps: readonly Step[]): SoundPart => ({
  recordingId: "a",
  offset: 0,
  length: minutes * 60 * RATE,
  origin: 0,
  steps
});
const band = { on1: true, type1: "highPass", freq1: 80, on2: true, gain2: -3 };
const five = [
  newStep("a", "gain", { gainDb: 3 }),
  newStep("b", "parametric-eq", band),
  newStep("c", "compressor", { thresholdDb: -30 }),
  newStep("d", "tone", { bassDb: 2 }),
  newStep("e", "limiter", { gainDb: 6 })
];
const eight = [
  ...five.slice(0, 4),
  newStep("f", "expander", {}),
  newStep("g", "transient-shaper", { attackDb: 2 }),
  newStep("h", "delay", {}),
  newStep("i", "limiter", { gainDb: 6 })
];
const hour = 60 / MINUTES;
write(
  file,
  [1, 2].map((seed) => speechLike(MINUTES * 60, seed))
);
write(
  white,
  [1, 2].map((seed) => noise(60 * RATE, 0.3, seed))
);
row(
  "levels of an untreated hour (of 10 minutes, six times)",
  hear(part(MINUTES, [])) * hour,
  "s",
  undefined,
  8
);
const spool = new FileSpool(path.join(data, "point"));
const whole = hear(part(MINUTES, five), { keep: { after: "d", take: (l, r, n) => spool.append(l, r, n) } });
spool.finish();
spool.release();
row("levels of an hour with five steps (likewise)", whole * hour, "s", undefined, 60);
const kept = new FileSpool(path.join(data, "point"), MINUTES * 60 * RATE);
const from: KeptPoint = { input: new SpoolStream(kept), after: "d" };
const again = hear(part(MINUTES, five), { from, measures: (id) => id === "e" });
kept.release();
row(
  "the last step changed: from the kept point, beside the whole",
  again / whole,
  "× as long",
  undefined,
  0.5
);
row("the sheet of eight steps on a minute", hear(part(1, eight)), "s", undefined, 1.5);
row("the same of white noise, the dearest sound to measure", hear(part(1, eight), {}, white), "s");
const memory = new SheetMemory();
/** As the page's worker does: from the kept sound on, with the picture of the last step. */
function sheet(steps: readonly Step[]): number {
  const files = new FileSource({ a: file }, RATE);
  const one = part(1, steps);
  const begin = performance.now();
  const pictures = { traced: "i" };
  const plan = memory.plan(one, undefined, pictures);
  const analyser = analysePart(one, null, files, RATE, 32768, { ...plan, ...pictures });
  while (!analyser.advance(1 << 16));
  memory.complete(one, undefined, plan, analyser.result());
  analyser.release();
  files.close();
  return (performance.now() - begin) / 1000;
}
const first = sheet(eight);
const lasts = [5, 4, 3].map((gainDb) => sheet([...eight.slice(0, 7), newStep("i", "limiter", { gainDb })]));
row("the last of eight steps changed, a minute", median(lasts), "s", undefined, 0.3);
row("the same beside the whole sheet", median(lasts) / first, "× as long", undefined, 0.25);
memory.release();
block.release();
rmSync(data, { recursive: true, force: true });

// Test signals and the shortest ways to put them through the core.
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { Chain, type StepSpec } from "../../src/lib/core/effects/chain";
import type { Samples } from "../../src/lib/core/effects/description";
import { learnAll } from "../../src/lib/core/effects/learning";
import { Plan } from "../../src/lib/core/render/graph";
import { MixStream } from "../../src/lib/core/render/mix";
import { RawStream } from "../../src/lib/core/render/rawStream";
import type { Source } from "../../src/lib/core/render/source";
import { kernels } from "../../src/lib/core/kernels/instance";
import { changesBetween, type Document } from "../../src/lib/core/session/document";
import type { ResolvedClip } from "../../src/lib/core/session/lookup";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";
import type { Fade, Step } from "../../src/lib/core/session/schema";

export const RATE = 48000;

export function sine(hertz: number, db: number, frames: number, rate = RATE, phase = 0): Float32Array {
  const a = 10 ** (db / 20);
  return Float32Array.from(
    { length: frames },
    (_, i) => a * Math.sin((2 * Math.PI * hertz * i) / rate + phase)
  );
}

/** Bit for bit; a whole array at once is many times faster than a deep comparison. */
export function same(a: Float32Array, b: Float32Array): boolean {
  return Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(
    Buffer.from(b.buffer, b.byteOffset, b.byteLength)
  );
}

/** Deterministic white noise, uniform in ±amplitude (mulberry32). */
export function noise(frames: number, amplitude = 0.5, seed = 1): Float32Array {
  let s = seed;
  return Float32Array.from({ length: frames }, () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return (((t ^ (t >>> 14)) >>> 0) / 2 ** 31 - 1) * amplitude;
  });
}

/** Writes a signal into kernel memory block by block. */
export function eachBlock(
  left: Float32Array,
  right: Float32Array,
  size: number,
  visit: (l: number, r: number, n: number, at: number, block: StereoBlock) => void
): void {
  const block = new StereoBlock(size);
  for (let at = 0; at < left.length; at += size) {
    const n = Math.min(size, left.length - at);
    block.left.f32.set(left.subarray(at, at + n));
    block.right.f32.set(right.subarray(at, at + n));
    visit(block.left.ptr, block.right.ptr, n, at, block);
  }
  block.release();
}

/** A chain's output for a signal, latency taken out, same length; what steps learn is learnt from the signal. */
export function throughChain(
  steps: StepSpec[],
  left: Float32Array,
  right = left,
  rate = RATE,
  size = BLOCK,
  sounds: Record<string, Samples> = {}
): [Float32Array, Float32Array] {
  const frames = left.length;
  const sound = (id: string) => sounds[id];
  const source = new ArraySource({ x: [left, right] });
  const learnt = learnAll({
    steps,
    sampleRate: rate,
    frames,
    open: (from) => new RawStream(source, "x", from, frames),
    sound
  });
  const chain = new Chain(steps, rate, { frames, position: 0, learnt, sound });
  const pad = chain.timing.latency;
  const out: [Float32Array, Float32Array] = [new Float32Array(frames + pad), new Float32Array(frames + pad)];
  const padded = (x: Float32Array) => {
    const y = new Float32Array(x.length + pad);
    y.set(x);
    return y;
  };
  eachBlock(padded(left), padded(right), size, (l, r, n, at, block) => {
    chain.process(l, r, n);
    out[0].set(block.left.f32.subarray(0, n), at);
    out[1].set(block.right.f32.subarray(0, n), at);
  });
  chain.release();
  return [out[0].subarray(pad), out[1].subarray(pad)];
}

export function step(effect: string, params: StepSpec["params"] = {}, on = true): StepSpec {
  return { effect, on, params };
}

/** Recordings held in memory: stereo pairs by id. */
export class ArraySource implements Source {
  constructor(private readonly recordings: Record<string, [Float32Array, Float32Array]>) {}

  read(id: string, from: number, frames: number, left: number, right: number): void {
    const pair = this.recordings[id];
    if (!pair) throw new Error(`No recording ${id}.`);
    [left, right].forEach((address, channel) => {
      const target = new Float32Array(kernels.memory.buffer, address, frames).fill(0);
      const begin = Math.max(0, from);
      const part = pair[channel].subarray(begin, Math.max(begin, from + frames));
      if (part.length > 0) target.set(part, begin - from);
    });
  }
}

interface StepText {
  readonly id: string;
  readonly effect: string;
  readonly on?: boolean;
  readonly params: StepSpec["params"];
  readonly span?: Step["span"];
}

export type ClipChange = Partial<Omit<ResolvedClip, "steps">> & { readonly steps?: readonly StepText[] };

/** A clip with its steps, of a recording of ten seconds. */
export function clipOf(
  recordingId: string,
  length: number,
  { steps = [], ...change }: ClipChange = {}
): ResolvedClip {
  const id = `clip-${recordingId}`;
  const recording = { id: recordingId, name: recordingId, frames: length };
  const made = steps.map(({ span = null, ...s }) => ({ ...newStep(s.id, s.effect, s.params, s.on), span }));
  const clip = newClip(id, "track-1", recording, 0, { chain: made.length > 0 ? `chain-${id}` : null });
  return { ...clip, recordingId, recordingFrames: 10 * RATE, recordingSteps: [], steps: made, ...change };
}

export function fade(length: number, curve: Fade["shape"]["curve"]): Fade {
  return { length, shape: { curve } };
}

/** A document with these clips on one track. */
export function documentWith(...clips: ResolvedClip[]): Document {
  return documentOf(newProject("Test", RATE), {
    tracks: [newTrack("track-1", "Track 1", 1)],
    clips: clips.map(
      ({ recordingId: _recording, recordingFrames: _frames, recordingSteps: _steps, steps, ...clip }) => ({
        ...clip,
        chain: steps.length > 0 ? `chain-${clip.id}` : null
      })
    ),
    chains: [
      ...clips.filter(({ steps }) => steps.length > 0).map(({ id, steps }) => newChain(`chain-${id}`, steps)),
      ...recordingsIn(clips)
        .filter(({ recordingSteps }) => recordingSteps.length > 0)
        .map(({ recordingId, recordingSteps }) => newChain(`chain-of-${recordingId}`, recordingSteps))
    ],
    recordings: recordingsIn(clips).map(({ recordingId: id, recordingFrames, recordingSteps }) => ({
      ...newRecording(id, {
        name: id,
        media: null,
        frames: recordingFrames,
        channels: 2,
        sampleRate: RATE,
        kind: "import"
      }),
      chain: recordingSteps.length > 0 ? `chain-of-${id}` : null
    }))
  });
}

/** One clip of each recording. */
function recordingsIn(clips: readonly ResolvedClip[]): ResolvedClip[] {
  return [...new Map(clips.map((c) => [c.recordingId, c])).values()];
}

/** A document's mix, which goes over to changed documents as the real-time worker's does. */
export class TestMix {
  readonly plan: Plan;
  readonly stream: MixStream;
  readonly #block = new StereoBlock(BLOCK);

  constructor(doc: Document, source: Source, from = 0) {
    this.plan = new Plan(doc);
    this.stream = new MixStream(this.plan, source, from);
  }

  update(doc: Document): void {
    this.plan.update(doc, changesBetween(this.plan.document, doc));
    this.stream.update();
  }

  /** The next frames, read in blocks of a size. */
  read(frames: number, size = BLOCK): [Float32Array, Float32Array] {
    const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
    for (let at = 0; at < frames; at += size) {
      const n = Math.min(size, frames - at);
      this.stream.read(this.#block.left.ptr, this.#block.right.ptr, n);
      out[0].set(this.#block.left.f32.subarray(0, n), at);
      out[1].set(this.#block.right.f32.subarray(0, n), at);
    }
    return out;
  }

  release(): void {
    this.stream.release();
    this.#block.release();
  }
}

/** A document's mix from a frame on, in blocks of a size. */
export function mixed(
  doc: Document,
  source: Source,
  from: number,
  frames: number,
  size = BLOCK
): [Float32Array, Float32Array] {
  const mix = new TestMix(doc, source, from);
  const out = mix.read(frames, size);
  mix.release();
  return out;
}

/** A chain with every effect of the core in it, none at its default. */
export const EVERY_EFFECT: StepSpec[] = [
  step("gain", { gainDb: 5.5 }),
  step("parametric-eq", {
    on1: true,
    type1: "highPass",
    freq1: 90,
    slope1: "18",
    on2: true,
    freq2: 900,
    gain2: -5,
    q2: 1.4,
    on3: true,
    type3: "highShelf",
    freq3: 6000,
    gain3: 4
  }),
  step("compressor", {
    thresholdDb: -30,
    ratio: 4,
    attackMs: 5,
    releaseMs: 120,
    makeUpDb: 6,
    lookAheadMs: 2,
    sideHighPassHz: 120
  }),
  step("plosive-removal", { overDb: 10, mostDb: 30 }),
  step("leveller", { mostDb: 5, seconds: 0.6 }),
  step("expander", { thresholdDb: -38, ratio: 2 }),
  step("de-esser", { thresholdDb: -30 }),
  step("transient-shaper", { attackDb: 3, sustainDb: -2 }),
  step("tone", { bassDb: 2, trebleDb: -3 }),
  step("noise-reduction", { reductionDb: 8 }),
  step("hum-removal", { method: "notches", mains: "50", harmonics: 4 }),
  step("click-repair", { sensitivityPercent: 30 }),
  step("declip", { level: "set", levelDb: -9 }),
  step("chorus", { mixPercent: 20 }),
  step("flanger", { mixPercent: 15 }),
  step("delay", { timeMs: 120, mixPercent: 15 }),
  step("reverb", { decayS: 0.5, mixPercent: 15 }),
  step("convolution", { lengthS: 0.3, mixPercent: 10 }),
  step("channels", { widthPercent: 90 }),
  step("polarity"),
  step("dc-removal"),
  step("gate", { thresholdDb: -60 }),
  step("normalize", { levelDb: -20 }),
  step("fade", { inS: 0.02, outS: 0.03 }),
  step("silence", { fromS: 0.2, toS: 0.22 }),
  step("reverse"),
  step("limiter", { gainDb: 9, ceilingDb: -2, releaseMs: 60 })
];

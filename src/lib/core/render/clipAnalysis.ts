// Levels after every step of a clip's chain, and what it looks like before and after: what the sheet shows.
import { BLOCK, StereoBlock } from "../audio/block";
import { fadeBlock } from "../audio/fadeCurve";
import { Chain } from "../effects/chain";
import type { Learnt } from "../effects/description";
import { kernels } from "../kernels/instance";
import { Meter, type Measurement } from "../measure/meter";
import type { ResolvedClip } from "../session/lookup";
import { dbToGain } from "../units/decibels";
import { learntOf } from "./prePass";
import type { Source } from "./source";

/** Levels at one point of the chain. */
export interface StageLevels {
  /** Id of the step after which it was measured; null: before the first. */
  readonly stepId: string | null;
  readonly measurement: Measurement;
  /** What the step learnt; only for steps that do. */
  readonly learnt?: Learnt["values"];
}

export interface ClipAnalysis {
  /** Before the first step, then after every step that is on. */
  readonly stages: readonly StageLevels[];
  /** As heard on its track: chain, gain and fades. */
  readonly output: Measurement;
  /** Largest magnitude in each of `bins` equal parts, before and after the chain. */
  readonly before: Float32Array;
  readonly after: Float32Array;
}

/** A meter at one point: lets the delay of the steps before it pass, then hears exactly the clip's length. */
class Tap {
  readonly meter: Meter;
  #skip: number;
  #left: number;

  constructor(
    sampleRate: number,
    latency: number,
    length: number,
    private readonly peaks?: Float32Array
  ) {
    this.meter = new Meter(sampleRate);
    this.#skip = latency;
    this.#left = length;
    this.#length = length;
  }

  readonly #length: number;

  push(l: number, r: number, n: number): void {
    const skip = Math.min(n, this.#skip);
    this.#skip -= skip;
    const m = Math.min(n - skip, this.#left);
    if (m === 0) return;
    const at = this.#length - this.#left;
    this.#left -= m;
    this.meter.push(l + skip * 4, r + skip * 4, m);
    if (this.peaks) this.#draw(this.peaks, at, l + skip * 4, r + skip * 4, m);
  }

  #draw(peaks: Float32Array, at: number, l: number, r: number, n: number): void {
    for (let i = 0; i < n;) {
      const bin = Math.min(peaks.length - 1, Math.floor(((at + i) * peaks.length) / this.#length));
      const end = Math.ceil(((bin + 1) * this.#length) / peaks.length);
      const m = Math.max(1, Math.min(n - i, end - (at + i)));
      peaks[bin] = Math.max(peaks[bin], kernels.peak(l + i * 4, m), kernels.peak(r + i * 4, m));
      i += m;
    }
  }
}

/** Runs a clip's whole chain, block by block, with a meter after every step. The render is left out of account: levels are the chain's. */
export class ClipAnalyser {
  readonly #block = new StereoBlock(BLOCK);
  readonly #stages: {
    stepId: string | null;
    processor: Chain | null;
    tap: Tap;
    learnt?: Learnt["values"];
  }[] = [];
  readonly #output: Tap;
  readonly #before: Float32Array;
  readonly #after: Float32Array;
  readonly #total: number;
  readonly #latency: number;
  #input = 0;

  constructor(
    private readonly clip: ResolvedClip,
    private readonly source: Source,
    sampleRate: number,
    bins: number
  ) {
    this.#before = new Float32Array(bins);
    this.#after = new Float32Array(bins);
    let latency = 0;
    const { recordingId, offset, length, steps } = clip;
    const learnt = learntOf({ recordingId, offset, length, steps }, source, sampleRate);
    this.#stages.push({
      stepId: null,
      processor: null,
      tap: new Tap(sampleRate, 0, clip.length, this.#before)
    });
    clip.steps.forEach((step, i) => {
      if (!step.on) return;
      const processor = new Chain([step], sampleRate, {
        frames: length,
        position: -latency,
        learnt: [learnt[i]],
        sound: (id) => source.sound?.(id)
      });
      latency += processor.timing.latency;
      this.#stages.push({
        stepId: step.id,
        processor,
        tap: new Tap(sampleRate, latency, length),
        learnt: learnt[i]?.values
      });
    });
    this.#latency = latency;
    this.#output = new Tap(sampleRate, latency, clip.length, this.#after);
    this.#total = clip.length + latency;
  }

  /** Frames of the recording that the next `advance(frames)` reads. */
  needed(frames: number): { recordingId: string; from: number; to: number } {
    const { recordingId, offset, length } = this.clip;
    const from = Math.min(this.#input, length);
    return {
      recordingId,
      from: offset + from,
      to: offset + Math.min(length, from + Math.ceil(frames / BLOCK) * BLOCK)
    };
  }

  /** Share that is done, 0 to 1. */
  get progress(): number {
    return Math.min(1, this.#input / this.#total);
  }

  /** Works through about `frames` more. Returns true when all is done. */
  advance(frames: number): boolean {
    const end = Math.min(this.#total, this.#input + frames);
    while (this.#input < end) this.#one();
    return this.#input >= this.#total;
  }

  #one(): void {
    const [l, r] = [this.#block.left.ptr, this.#block.right.ptr];
    const inside = Math.max(0, Math.min(BLOCK, this.clip.length - this.#input));
    if (inside > 0) this.source.read(this.clip.recordingId, this.clip.offset + this.#input, inside, l, r);
    kernels.clear(l + inside * 4, BLOCK - inside);
    kernels.clear(r + inside * 4, BLOCK - inside);
    for (const { processor, tap } of this.#stages) {
      processor?.process(l, r, BLOCK);
      tap.push(l, r, BLOCK);
    }
    this.#shape(l, r);
    this.#output.push(l, r, BLOCK);
    this.#input += BLOCK;
  }

  #shape(l: number, r: number): void {
    const gain = dbToGain(this.clip.gainDb);
    kernels.gain(l, BLOCK, gain);
    kernels.gain(r, BLOCK, gain);
    const position = this.#input - this.#latency;
    const skip = Math.max(0, Math.min(BLOCK, -position));
    const n = Math.min(BLOCK - skip, this.clip.length - (position + skip));
    if (n > 0) fadeBlock(this.clip, position + skip, l + skip * 4, r + skip * 4, n);
  }

  result(): ClipAnalysis {
    return {
      stages: this.#stages.map(({ stepId, tap, learnt }) => ({
        stepId,
        measurement: tap.meter.result(),
        learnt
      })),
      output: this.#output.meter.result(),
      before: this.#before,
      after: this.#after
    };
  }

  release(): void {
    this.#block.release();
    for (const { processor, tap } of this.#stages) {
      processor?.release();
      tap.meter.release();
    }
    this.#output.meter.release();
  }
}

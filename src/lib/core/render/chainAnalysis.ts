// Levels after every step of a chain, and what it looks like before and after: what the sheet shows. For every owner of a chain.
import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { Chain, type StepSpec } from "../effects/chain";
import type { Learnt, Samples } from "../effects/description";
import { kernels } from "../kernels/instance";
import { Meter, type Measurement } from "../measure/meter";

/** Levels at one point of the chain. */
export interface StageLevels {
  /** Id of the step after which it was measured; null: before the first. */
  readonly stepId: string | null;
  readonly measurement: Measurement;
  /** What the step learnt; only for steps that do. */
  readonly learnt?: Learnt["values"];
}

export interface ChainAnalysis {
  /** Before the first step, then after every step that is heard. */
  readonly stages: readonly StageLevels[];
  /** As it goes on from there: chain, gain and, for clips, fades. */
  readonly output: Measurement;
  /** Largest magnitude in each of `bins` equal parts, before and after the chain. */
  readonly before: Float32Array;
  readonly after: Float32Array;
}

/** A meter at one point: lets the delay of the steps before it pass, then hears exactly the sound's length. */
class Tap {
  readonly meter: Meter;
  #skip: number;
  #left: number;

  constructor(
    sampleRate: number,
    latency: number,
    private readonly length: number,
    private readonly peaks?: Float32Array
  ) {
    this.meter = new Meter(sampleRate);
    this.#skip = latency;
    this.#left = length;
  }

  push(l: number, r: number, n: number): void {
    const skip = Math.min(n, this.#skip);
    this.#skip -= skip;
    const m = Math.min(n - skip, this.#left);
    if (m === 0) return;
    const at = this.length - this.#left;
    this.#left -= m;
    this.meter.push(l + skip * 4, r + skip * 4, m);
    if (this.peaks) this.#draw(this.peaks, at, l + skip * 4, r + skip * 4, m);
  }

  #draw(peaks: Float32Array, at: number, l: number, r: number, n: number): void {
    for (let i = 0; i < n;) {
      const bin = Math.min(peaks.length - 1, Math.floor(((at + i) * peaks.length) / this.length));
      const end = Math.ceil(((bin + 1) * this.length) / peaks.length);
      const m = Math.max(1, Math.min(n - i, end - (at + i)));
      peaks[bin] = Math.max(peaks[bin], kernels.peak(l + i * 4, m), kernels.peak(r + i * 4, m));
      i += m;
    }
  }
}

/** A step with its identity, as sheets show it. */
export type SheetStep = StepSpec & { readonly id: string };

/** What is analysed: a chain and the sound that goes into it. */
export interface Analysed {
  /** Sound before the first step, from `position` on. Released with the analysis. */
  readonly input: SoundStream;
  readonly steps: readonly SheetStep[];
  /** Frames that are analysed. */
  readonly length: number;
  /** Frames of the owner, 0 without an end; the frame of it with which `input` begins; where its spans count from. */
  readonly frames: number;
  readonly position: number;
  readonly origin: number;
  readonly learnt: readonly (Learnt | undefined)[];
  readonly sound: (id: string) => Samples | undefined;
  /** Gain and fades behind the chain. position: frames after the first that is analysed; negative, or behind the last, is nothing. */
  readonly shape: (position: number, l: number, r: number, n: number) => void;
}

/** Runs a whole chain, block by block, with a meter after every step. */
export class ChainAnalyser {
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
    private readonly what: Analysed,
    sampleRate: number,
    bins: number
  ) {
    const { length, frames, position, origin, learnt, sound } = what;
    this.#before = new Float32Array(bins);
    this.#after = new Float32Array(bins);
    let latency = 0;
    this.#stages.push({ stepId: null, processor: null, tap: new Tap(sampleRate, 0, length, this.#before) });
    what.steps.forEach((step, i) => {
      if (!step.on) return;
      const place = { frames, position: position - latency, origin, learnt: [learnt[i]], sound };
      const processor = new Chain([step], sampleRate, place);
      latency += processor.timing.latency;
      const tap = new Tap(sampleRate, latency, length);
      this.#stages.push({ stepId: step.id, processor, tap, learnt: learnt[i]?.values });
    });
    this.#latency = latency;
    this.#output = new Tap(sampleRate, latency, length, this.#after);
    this.#total = length + latency;
  }

  /** Frames of recordings that the next `advance(frames)` reads. */
  needed(frames: number): readonly FrameRange[] {
    return this.what.input.needed(Math.ceil(frames / BLOCK) * BLOCK);
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
    this.what.input.read(l, r, BLOCK);
    for (const { processor, tap } of this.#stages) {
      processor?.process(l, r, BLOCK);
      tap.push(l, r, BLOCK);
    }
    this.what.shape(this.#input - this.#latency, l, r, BLOCK);
    this.#output.push(l, r, BLOCK);
    this.#input += BLOCK;
  }

  /** What has been measured so far. */
  result(): ChainAnalysis {
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
    this.what.input.release();
  }
}

import { truePeakTaps } from "../audio/truePeakFilter";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { gainToDb, powerToDb } from "../units/decibels";
import { kWeighting, LoudnessSteps } from "./loudness";

const MAX_BLOCK = 8192;

/** Everything that is measured of a stretch of sound. Levels are -Infinity for silence. */
export interface Measurement {
  readonly integratedLufs: number;
  readonly momentaryMaxLufs: number;
  readonly shortTermMaxLufs: number;
  readonly loudnessRangeLu: number;
  readonly truePeakDbtp: number;
  readonly samplePeakDbfs: number;
  /** Root mean square over all channels; a full-scale sine reads -3.01 (no AES17 offset). */
  readonly rmsDbfs: number;
}

/** What a live meter shows. */
export interface LiveLevels {
  readonly momentary: number;
  readonly shortTerm: number;
  readonly integrated: number;
  readonly truePeak: number;
}

/** K-weighting filter and energy of two channels. */
class WeightedPair {
  readonly #state = new Buffer(64);
  readonly #sums = new Buffer(16);

  push(l: number, r: number, n: number, coefs: number): void {
    kernels.kWeightedEnergy(l, r, n, coefs, this.#state.ptr, this.#sums.ptr);
  }

  /** Sum of both channels' squares since the last call, each with its weight. */
  take(left: number, right: number): number {
    const sums = this.#sums.f64;
    const energy = sums[0] * left + sums[1] * right;
    sums[0] = 0;
    sums[1] = 0;
    return energy;
  }

  release(): void {
    this.#state.release();
    this.#sums.release();
  }
}

/** Channel weights of BS.1770-5, table 3: front channels 1, surrounds 1.41, by number of channels (L R C Ls Rs). */
export const CHANNEL_WEIGHTS: Record<number, readonly number[]> = {
  1: [1],
  2: [1, 1],
  5: [1, 1, 1, 1.41, 1.41]
};

/** Measures a stream of blocks in one pass. */
export class Meter {
  readonly #step: number;
  readonly #coefs = new Buffer(80);
  readonly #pairs: WeightedPair[] = [];
  readonly #history: Buffer;
  readonly #work = new Buffer((MAX_BLOCK + 16) * 4);
  readonly #steps = new LoudnessSteps();
  readonly #pointers: number[];
  #inStep = 0;
  #frames = 0;
  #squares = 0;
  #peak = 0;
  #truePeak = 0;

  /** @param weights one for each channel; stereo unless said */
  constructor(
    sampleRate: number,
    private readonly weights: readonly number[] = CHANNEL_WEIGHTS[2]
  ) {
    this.#step = Math.round(sampleRate / 10);
    this.#coefs.f64.set(kWeighting(sampleRate));
    for (let c = 0; c < weights.length; c += 2) this.#pairs.push(new WeightedPair());
    this.#history = new Buffer(weights.length * 64);
    this.#pointers = weights.map(() => 0);
  }

  /** Takes the next n frames of a stereo stream. l, r: addresses of f32 blocks in the kernels' memory; they are not changed. */
  push(l: number, r: number, n: number): void {
    this.#pointers[0] = l;
    if (this.#pointers.length > 1) this.#pointers[1] = r;
    this.pushChannels(this.#pointers, n);
  }

  /** The same for any number of channels: one address for each weight. */
  pushChannels(addresses: readonly number[], n: number): void {
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#step - this.#inStep, MAX_BLOCK);
      this.#part(addresses, done * 4, m);
      done += m;
    }
  }

  #part(addresses: readonly number[], offset: number, n: number): void {
    const work = this.#work.ptr;
    const taps = truePeakTaps();
    for (let p = 0; p < this.#pairs.length; p++) {
      const left = addresses[2 * p] + offset;
      const right = 2 * p + 1 < addresses.length ? addresses[2 * p + 1] + offset : left;
      this.#pairs[p].push(left, right, n, this.#coefs.ptr);
    }
    for (let c = 0; c < addresses.length; c++) {
      const at = addresses[c] + offset;
      this.#peak = Math.max(this.#peak, kernels.peak(at, n));
      this.#squares += kernels.sumSquares(at, n);
      this.#truePeak = kernels.truePeak(at, n, taps, this.#history.ptr + c * 64, work, this.#truePeak);
    }
    this.#frames += n;
    this.#inStep += n;
    if (this.#inStep === this.#step) this.#closeStep();
  }

  #closeStep(): void {
    let energy = 0;
    for (let p = 0; p < this.#pairs.length; p++)
      energy += this.#pairs[p].take(this.weights[2 * p], this.weights[2 * p + 1] ?? 0);
    this.#steps.add(energy / this.#step);
    this.#inStep = 0;
  }

  /** Number of whole 100 ms steps so far. */
  get steps(): number {
    return this.#steps.count;
  }

  /** Levels as of now, for a live display. The true peak is the largest since the start. */
  live(): LiveLevels {
    return {
      momentary: this.#steps.momentary(),
      shortTerm: this.#steps.shortTerm(),
      integrated: this.#steps.integrated(),
      truePeak: this.#truePeakDb()
    };
  }

  // The standard attenuates by 12.04 dB before interpolating and adds it afterwards; with floats that is no operation.
  // A sample itself counts too: the interpolator's phases pass it only nearly.
  #truePeakDb(): number {
    return gainToDb(Math.max(this.#truePeak, this.#peak));
  }

  /** The whole measurement of what has been pushed. */
  result(): Measurement {
    return {
      integratedLufs: this.#steps.integrated(),
      momentaryMaxLufs: this.#steps.momentaryMax(),
      shortTermMaxLufs: this.#steps.shortTermMax(),
      loudnessRangeLu: this.#steps.range(),
      truePeakDbtp: this.#truePeakDb(),
      samplePeakDbfs: gainToDb(this.#peak),
      rmsDbfs: powerToDb(this.#frames === 0 ? 0 : this.#squares / (this.#frames * this.weights.length))
    };
  }

  release(): void {
    for (const b of [this.#coefs, this.#history, this.#work, ...this.#pairs]) b.release();
  }
}

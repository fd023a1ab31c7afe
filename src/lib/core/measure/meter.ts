import { steadyPeakTaps } from "../audio/finePeakFilter";
import { truePeakTaps } from "../audio/truePeakFilter";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { gainToDb, powerToDb } from "../units/decibels";
import { channelWeights } from "./channelWeights";
import { kWeighting } from "./kWeighting";
import { SampleLevels } from "./levels";
import { loudnessCurve, type LoudnessCurve } from "./loudnessCurve";
import { LoudnessSteps, STEPS_PER_SECOND } from "./loudness";

const MAX_BLOCK = 8192;
const AES17_DB = 10 * Math.log10(2);

/** Everything that is measured of a stretch of sound. Levels are -Infinity for silence. */
export interface Measurement {
  readonly integratedLufs: number;
  readonly momentaryMaxLufs: number;
  readonly shortTermMaxLufs: number;
  readonly loudnessRangeLu: number;
  /** By a fourfold interpolator of 32 taps and a parabola: tones up to 0.45 of the rate within 0.03 dB. */
  readonly truePeakDbtp: number;
  /** By the interpolator that ITU-R BS.1770-5 annex 2 gives as its example: -0.3 to +0.2 dB on tones. Only where it was asked for. */
  readonly truePeakAnnex2Dbtp?: number;
  readonly samplePeakDbfs: number;
  /** Root mean square over all channels; a full-scale sine reads -3.01. */
  readonly rmsDbfs: number;
  /** The same as AES17 has it: a full-scale sine reads 0. */
  readonly rmsAes17Dbfs: number;
  /** Samples in runs of three or more at full scale (common practice, no source), all channels. */
  readonly clippedSamples: number;
  /** Mean of the samples, 1 is full scale: that of the channel farthest from zero. */
  readonly dcOffset: number;
  /** RMS of the quietest 400 ms without digital silence, over all channels (common practice, no source). */
  readonly noiseFloorDbfs: number;
  /** Sample peak over RMS. */
  readonly crestFactorDb: number;
}

/** What can be said of loudness. */
export type Loudness = Pick<
  Measurement,
  "integratedLufs" | "momentaryMaxLufs" | "shortTermMaxLufs" | "loudnessRangeLu"
>;

/** What a live meter shows. */
export interface LiveLevels {
  readonly momentary: number;
  readonly shortTerm: number;
  readonly integrated: number;
  readonly truePeak: number;
}

/** Loudness over time, 10 values a second. */
export interface LoudnessOverTime {
  readonly momentaryLufs: Float64Array;
  readonly shortTermLufs: Float64Array;
}

export interface MeterOptions {
  /** One weight for each channel; those of BS.1770 for two channels unless said. */
  readonly weights?: readonly number[];
  /** Whether true peak and the plain levels are measured too; true unless said. */
  readonly peaks?: boolean;
  /** Whether true peak is measured by annex 2's interpolator too; not unless said. */
  readonly annex2?: boolean;
}

/** K-weighting filter and energy of two channels. */
class WeightedPair {
  readonly #state = new Buffer(128);
  readonly out: Buffer;

  constructor(steps: number) {
    this.out = new Buffer(steps * 16);
  }

  push(l: number, r: number, n: number, coefs: number, step: number): number {
    return kernels.kWeightedSteps(l, r, n, coefs, this.#state.ptr, step, this.out.ptr);
  }

  release(): void {
    this.#state.release();
    this.out.release();
  }
}

/** Measures a stream of blocks in one pass. */
export class Meter {
  readonly #weights: readonly number[];
  readonly #peaks: boolean;
  readonly #annex2: boolean;
  readonly #step: number;
  readonly #coefs = new Buffer(80);
  readonly #pairs: WeightedPair[] = [];
  readonly #history: Buffer;
  readonly #fineHistory: Buffer;
  readonly #work = new Buffer(72 * 4);
  readonly #steps = new LoudnessSteps();
  readonly #levels: SampleLevels;
  readonly #pointers: number[];
  readonly #at: number[];
  #truePeak = 0;
  #standardPeak = 0;

  constructor(
    sampleRate: number,
    { weights = channelWeights(2), peaks = true, annex2 = false }: MeterOptions = {}
  ) {
    this.#weights = weights;
    this.#peaks = peaks;
    this.#annex2 = annex2;
    this.#step = Math.round(sampleRate / STEPS_PER_SECOND);
    this.#coefs.f64.set(kWeighting(sampleRate));
    const steps = Math.ceil(MAX_BLOCK / this.#step) + 1;
    for (let c = 0; c < weights.length; c += 2) this.#pairs.push(new WeightedPair(steps));
    this.#history = new Buffer(weights.length * 64);
    this.#fineHistory = new Buffer(weights.length * 144);
    this.#levels = new SampleLevels(weights.length, sampleRate);
    this.#pointers = weights.map(() => 0);
    this.#at = weights.map(() => 0);
  }

  /** Takes the next n frames of a stereo stream. l, r: addresses of f32 blocks in the kernels' memory; they are not changed. */
  push(l: number, r: number, n: number): void {
    this.#pointers[0] = l;
    if (this.#pointers.length > 1) this.#pointers[1] = r;
    this.pushChannels(this.#pointers, n);
  }

  /** The same for any number of channels: one address for each weight. */
  pushChannels(addresses: readonly number[], n: number): void {
    for (let done = 0; done < n; done += MAX_BLOCK) {
      for (let c = 0; c < addresses.length; c++) this.#at[c] = addresses[c] + done * 4;
      this.#part(this.#at, Math.min(MAX_BLOCK, n - done));
    }
  }

  #part(addresses: readonly number[], n: number): void {
    let made = 0;
    for (let p = 0; p < this.#pairs.length; p++) {
      const left = addresses[2 * p];
      const right = 2 * p + 1 < addresses.length ? addresses[2 * p + 1] : left;
      made = this.#pairs[p].push(left, right, n, this.#coefs.ptr, this.#step);
    }
    for (let i = 0; i < made; i++) this.#closeStep(i);
    if (!this.#peaks) return;
    const taps = truePeakTaps();
    const fineTaps = steadyPeakTaps();
    for (let c = 0; c < addresses.length; c++) {
      const history = this.#history.ptr + c * 64;
      const fineHistory = this.#fineHistory.ptr + c * 144;
      const work = this.#work.ptr;
      if (this.#annex2)
        this.#standardPeak = kernels.truePeak(addresses[c], n, taps, history, work, this.#standardPeak);
      this.#truePeak = kernels.steadyPeak(addresses[c], n, fineTaps, fineHistory, work, this.#truePeak);
    }
    this.#levels.push(addresses, n);
  }

  #closeStep(i: number): void {
    let energy = 0;
    for (let p = 0; p < this.#pairs.length; p++) {
      const sums = this.#pairs[p].out.f64;
      energy += sums[2 * i] * this.#weights[2 * p] + sums[2 * i + 1] * (this.#weights[2 * p + 1] ?? 0);
    }
    this.#steps.add(energy / this.#step);
  }

  /** Number of whole 100 ms so far. */
  get tenths(): number {
    return Math.floor(this.#steps.count / 10);
  }

  #needPeaks(): void {
    if (!this.#peaks) throw new Error("This meter was made without peaks: it knows loudness alone.");
  }

  /** Levels as of now, for a live display. The true peak is the largest since the start. @throws when it measures no peaks */
  live(): LiveLevels {
    this.#needPeaks();
    return {
      momentary: this.#steps.momentary(),
      shortTerm: this.#steps.shortTerm(),
      integrated: this.#steps.integrated(),
      truePeak: this.#peakDb(this.#truePeak)
    };
  }

  /** Loudness over time so far. */
  overTime(): LoudnessOverTime {
    return {
      momentaryLufs: this.#steps.momentaryOverTime(),
      shortTermLufs: this.#steps.shortTermOverTime()
    };
  }

  /** Loudness over time so far in at most so many columns, for drawing. */
  curve(columns: number): LoudnessCurve {
    return loudnessCurve(this.#steps, columns);
  }

  // The standard attenuates by 12.04 dB before interpolating and adds it afterwards; with floats that is no operation.
  // A sample itself counts too: the interpolator's phases pass it only nearly.
  #peakDb(between: number): number {
    return gainToDb(Math.max(between, this.#levels.peak));
  }

  /** Loudness alone of what has been pushed. */
  loudness(): Loudness {
    return {
      integratedLufs: this.#steps.integrated(),
      momentaryMaxLufs: this.#steps.momentaryMax(),
      shortTermMaxLufs: this.#steps.shortTermMax(),
      loudnessRangeLu: this.#steps.range()
    };
  }

  /** The whole measurement of what has been pushed. @throws when it measures no peaks */
  result(): Measurement {
    this.#needPeaks();
    const samplePeakDbfs = gainToDb(this.#levels.peak);
    const rmsDbfs = powerToDb(this.#levels.meanSquare);
    return {
      ...this.loudness(),
      truePeakDbtp: this.#peakDb(this.#truePeak),
      ...(this.#annex2 ? { truePeakAnnex2Dbtp: this.#peakDb(this.#standardPeak) } : {}),
      samplePeakDbfs,
      rmsDbfs,
      rmsAes17Dbfs: rmsDbfs + AES17_DB,
      clippedSamples: this.#levels.clipped,
      dcOffset: this.#levels.offset,
      noiseFloorDbfs: powerToDb(this.#levels.floor),
      crestFactorDb: rmsDbfs === -Infinity ? 0 : samplePeakDbfs - rmsDbfs
    };
  }

  release(): void {
    for (const b of [this.#coefs, this.#history, this.#fineHistory, this.#work, this.#levels, ...this.#pairs])
      b.release();
  }
}

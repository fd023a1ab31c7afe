// Whether there is steady noise in a sound, and what it is like: a stretch of it alone is not needed.
//
// Noise has a floor at which a good share of all moments lies, in every band; speech and music pass through theirs. So each band's floor is taken
// (the 3rd percentile of its level over time), and the share of moments within 3 dB above it, the median over the bands, tells one from the
// other. What lies at the floor in most bands is the noise, and its mean the profile. Thresholds: found by trial on recorded and made sound.
import { median, percentile } from "../audio/statistics";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";
import { smoothedProfile, type NoiseProfile } from "./noiseProfile";
import { PowerFrames } from "./powerFrames";

const SMOOTH_SECONDS = 0.17;
/** Bins to both sides over which a level is averaged. */
const AROUND = 2;
const FLOOR_PERCENTILE = 0.03;
const NEAR_DB = 3;
/** By how much the mean of noise lies above its floor as it is taken here. */
const ABOVE_FLOOR_DB = 1.5;
const LEAST_SHARE = 0.2;
const SURE_SHARE = 0.35;
const LEAST_SECONDS = 0.15;
/** A drone or a held note has its power in few bins of a band. */
const LEAST_FLATNESS = 0.86;
/** A quarter of the bands may be less flat than this: hum has lines there. */
const LEAST_LOWER_FLATNESS = 0.78;
/** What is noise throughout is flatter still; all else stands out of its noise. */
const FLAT_THROUGHOUT = 0.9;
const LEAST_RISE_DB = 6;
/** Moments that are kept: of a longer sound every second one, every fourth … */
const MOST_KEPT = 4096;
/** Below this share of the greatest moment's power a moment is digital silence, which says nothing. */
const SILENT = 1e-9;

/** What was found. */
export interface FoundNoise {
  readonly profile: NoiseProfile;
  /** Level of the noise in dBFS, RMS of one side. */
  readonly levelDb: number;
  readonly sure: boolean;
}

/** Band of each bin, two of the ear's equivalent rectangular bandwidths each (B. R. Glasberg, B. C. J. Moore, Hearing Research 47, 1990). */
function bandsOf(bins: number, hertzPerBin: number): Int32Array {
  const erb = (k: number) =>
    Math.floor((0.5 * 21.4 * kernels.log(1 + 0.00437 * k * hertzPerBin)) / Math.LN10);
  let [band, last] = [-1, -1];
  return Int32Array.from({ length: bins }, (_, k) => {
    const at = erb(k);
    if (at !== last) {
      band++;
      last = at;
    }
    return band;
  });
}

/** One moment: its power by bins, and its smoothed level in each band. */
interface Moment {
  readonly power: Float32Array;
  readonly levels: Float32Array;
  readonly mean: number;
}

export class NoiseFinder {
  readonly #frames: PowerFrames;
  readonly #bands: Int32Array;
  readonly #bandCount: number;
  /** Bins of each band. */
  readonly #widths: Float64Array;
  readonly #smooth: number;
  /** The newest powers, as they are and smoothed over neighbouring bins, and the sum of these. */
  readonly #recent: { readonly power: Float32Array; readonly smoothed: Float32Array }[] = [];
  readonly #sum: Float64Array;
  #moments: Moment[] = [];
  #stride = 1;
  #count = 0;

  constructor(private readonly sampleRate: number) {
    this.#frames = new PowerFrames(sampleRate);
    const bins = this.#frames.size / 2 + 1;
    this.#bands = bandsOf(bins, sampleRate / this.#frames.size);
    this.#bandCount = this.#bands[bins - 1] + 1;
    this.#widths = new Float64Array(this.#bandCount);
    for (const band of this.#bands) this.#widths[band]++;
    this.#smooth = Math.max(3, Math.round((SMOOTH_SECONDS * sampleRate) / this.#frames.hop));
    this.#sum = new Float64Array(bins);
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    this.#frames.push(l, r, n, (power) => this.#moment(power));
  }

  #moment(power: Float32Array): void {
    const sum = this.#sum;
    if (power.every((p) => p === 0)) {
      // What lies around digital silence would be averaged with it.
      this.#recent.length = 0;
      sum.fill(0);
      return;
    }
    const smoothed = power.map((p, k) => {
      let [all, count] = [0, 0];
      for (let j = Math.max(0, k - AROUND); j <= Math.min(power.length - 1, k + AROUND); j++) {
        all += power[j];
        count++;
      }
      return all / count;
    });
    this.#recent.push({ power: power.slice(), smoothed });
    for (let k = 0; k < sum.length; k++) sum[k] += smoothed[k];
    if (this.#recent.length > this.#smooth) {
      const old = this.#recent.shift();
      if (old) for (let k = 0; k < sum.length; k++) sum[k] = Math.max(0, sum[k] - old.smoothed[k]);
    }
    if (this.#recent.length < this.#smooth || this.#count++ % this.#stride !== 0) return;
    this.#keep(this.#recent[this.#smooth >> 1].power);
  }

  /** Keeps a moment, judged by the levels around it. */
  #keep(power: Float32Array): void {
    const levels = new Float32Array(this.#bandCount);
    let mean = 0;
    for (let k = 0; k < power.length; k++) {
      levels[this.#bands[k]] += this.#sum[k];
      mean += power[k] / power.length;
    }
    for (let b = 0; b < levels.length; b++) levels[b] = powerToDb(levels[b] / this.#widths[b] + 1e-20);
    this.#moments.push({ power, levels, mean });
    if (this.#moments.length <= MOST_KEPT) return;
    this.#moments = this.#moments.filter((_, i) => i % 2 === 0);
    this.#stride *= 2;
  }

  /** What was found; undefined when there is no steady noise. */
  finish(): FoundNoise | undefined {
    const most = this.#moments.reduce((top, { mean }) => Math.max(top, mean), 0);
    const live = this.#moments.filter(({ mean }) => mean > most * SILENT);
    const perSecond = this.sampleRate / (this.#frames.hop * this.#stride);
    if (live.length === 0) return undefined;
    const bands = Array.from({ length: this.#bandCount }, (_, b) => b);
    const floors = bands.map((b) =>
      percentile(
        live.map(({ levels }) => levels[b]),
        FLOOR_PERCENTILE
      )
    );
    const near = ({ levels }: Moment, b: number) => levels[b] < floors[b] + NEAR_DB;
    const share = median(
      bands.map((b) => live.reduce((n, moment) => n + Number(near(moment, b)), 0) / live.length)
    );
    const quiet = live.filter((moment) => bands.filter((b) => near(moment, b)).length * 2 > bands.length);
    if (share < LEAST_SHARE || quiet.length < LEAST_SECONDS * perSecond) return undefined;
    // In each band only what is at the floor there: an s may lie over a moment that is quiet elsewhere.
    const mean = new Float64Array(live[0].power.length);
    const counts = new Float64Array(bands.length);
    for (const moment of quiet) {
      const at = bands.map((b) => Number(near(moment, b)));
      at.forEach((one, b) => (counts[b] += one));
      moment.power.forEach((p, k) => (mean[k] += at[this.#bands[k]] * p));
    }
    mean.forEach((_, k) => (mean[k] /= Math.max(1, counts[this.#bands[k]])));
    this.#lower(mean, floors);
    if (!this.#isNoise(mean, live, quiet)) return undefined;
    const total = mean.reduce((a, b) => a + b, 0);
    return {
      profile: { sampleRate: this.sampleRate, power: smoothedProfile(mean, this.#frames.energy) },
      levelDb: powerToDb(total / (this.#frames.energy * this.#frames.size)),
      sure: share >= SURE_SHARE
    };
  }

  /** Where speech lies close over the noise its moments count too: no band is left higher than noise of its floor would be. */
  #lower(mean: Float64Array, floors: readonly number[]): void {
    const sums = new Float64Array(this.#bandCount);
    mean.forEach((p, k) => (sums[this.#bands[k]] += p));
    const factors = floors.map((floor, b) => {
      const most = kernels.exp(((floor + ABOVE_FLOOR_DB) * Math.LN10) / 10) / this.#smooth;
      return Math.min(1, most / (sums[b] / this.#widths[b] + 1e-30));
    });
    mean.forEach((_, k) => (mean[k] *= factors[this.#bands[k]]));
  }

  /** Whether what lies at the floor is spread over each band, and all else stands out of it. */
  #isNoise(mean: Float64Array, live: readonly Moment[], quiet: readonly Moment[]): boolean {
    const logs = new Float64Array(this.#bandCount);
    const sums = new Float64Array(this.#bandCount);
    mean.forEach((p, k) => {
      const b = this.#bands[k];
      logs[b] += kernels.log(p + 1e-30);
      sums[b] += p + 1e-30;
    });
    const flat = Array.from(this.#widths, (w, b) =>
      w > 2 ? kernels.exp(logs[b] / w) / (sums[b] / w) : NaN
    ).filter((f) => f > 0);
    const lower = percentile(flat, 0.25);
    const rise =
      percentile(
        live.map(({ mean: p }) => powerToDb(p)),
        0.95
      ) - median(quiet.map(({ mean: p }) => powerToDb(p)));
    return (
      median(flat) > LEAST_FLATNESS &&
      lower > LEAST_LOWER_FLATNESS &&
      (rise >= LEAST_RISE_DB || lower > FLAT_THROUGHOUT)
    );
  }

  release(): void {
    this.#frames.release();
  }
}

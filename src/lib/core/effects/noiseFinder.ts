// Whether there is steady noise in a sound, and what it is like: a stretch of it alone is not needed.
//
// Noise has a floor at which a good share of all moments lies, in every band; speech and music pass through theirs. So each band's floor is taken
// (the 3rd percentile of its level over time), and the share of moments within 3 dB above it, the median over the bands, tells one from the
// other. What lies at the floor in most bands is the noise, and its mean the profile. Where speech leaves no such moments it is looked for in part
// of the spectrum (noiseParts.ts). Thresholds: found by trial on recorded and made sound.
import { median, percentile } from "../audio/statistics";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";
import { bandsOf, partEdges, partShares, powerFactor } from "./noiseBands";
import { cap, knownBands, spread, trustedBands } from "./noiseParts";
import { smoothedProfile, type NoiseProfile } from "./noiseProfile";
import { followLevels, moves, offsetsAt, type BandLevels, type TrackNode } from "./noiseTrack";
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
/** Where noise alone is rarer than that, it must be so long, and moments crowd at the floor: this many times more than a little above it. */
const RARE_SECONDS = 0.7;
const AT_FLOOR_DB = [0, 2.5] as const;
const ABOVE_DB = [3.5, 6] as const;
const CROWDED = 3;
/** And in a quarter of the bands no less than this. */
const LEAST_CROWDED = 1.5;
/** So far a profile is moved as a whole; up only where noise was heard alone so long: else speech that lies close would be taken for it. */
const MOST_FIT_DB = 2;
const MOST_UP_DB = 1;
const ALONE_SECONDS = 3;
/** A drone or a held note has its power in few bins of a band. */
const LEAST_FLATNESS = 0.86;
/** A quarter of the bands may be less flat than this: hum has lines there. */
const LEAST_LOWER_FLATNESS = 0.78;
/** What is noise throughout is flatter still; all else stands out of its noise. */
const FLAT_THROUGHOUT = 0.9;
const LEAST_RISE_DB = 6;
/** Moments that are kept: of a longer sound every second one, every fourth … */
const MOST_KEPT = 4096;
/** Windows from one level that is followed to the next: some 85 ms. */
const FOLLOW_EVERY = 4;
/** Below this share of the greatest moment's power a moment is digital silence, which says nothing. */
const SILENT = 1e-9;

/** What was found. */
export interface FoundNoise {
  readonly profile: NoiseProfile;
  /** Level of the noise in dBFS, RMS of one side, where it is quietest. */
  readonly levelDb: number;
  /** And where it is loudest. */
  readonly loudestDb: number;
  readonly sure: boolean;
  /** How its level moves; empty when it stays. */
  readonly track: readonly TrackNode[];
}

/** One moment: its power by bins, and its smoothed level in each band. */
interface Moment {
  readonly frame: number;
  readonly power: Float32Array;
  readonly levels: Float32Array;
  readonly mean: number;
}

interface Judged {
  /** Mean power in each bin. */
  readonly mean: Float64Array;
  /** How long little else than noise sounds. */
  readonly seconds: number;
  readonly sure: boolean;
  /** Whether it was found in some bands only. */
  readonly part: boolean;
}

function meanOf(power: Float32Array): number {
  return power.reduce((sum, p) => sum + p, 0) / power.length;
}

/** Whether the floor is where moments crowd: what passes through its floor is more often above it. */
function crowded(crowding: readonly number[]): boolean {
  return median(crowding) >= CROWDED && percentile(crowding, 0.25) >= LEAST_CROWDED;
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
  readonly #followed: BandLevels[] = [];
  #stride = 1;
  #count = 0;
  /** Windows so far, digital silence included. */
  #windows = 0;

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
    this.#windows++;
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
    if (this.#recent.length < this.#smooth) return;
    const count = this.#count++;
    const [followed, kept] = [count % FOLLOW_EVERY === 0, count % this.#stride === 0];
    if (!followed && !kept) return;
    const levels = this.#levels();
    const frame = this.#middle();
    if (followed) this.#followed.push({ frame, levels });
    if (!kept) return;
    const middle = this.#recent[this.#smooth >> 1].power;
    this.#keep({ frame, power: middle, levels, mean: meanOf(middle) });
  }

  /** Middle of the windows whose power is averaged, in frames. */
  #middle(): number {
    const { hop, size } = this.#frames;
    return (this.#windows - 1) * hop + (size - (this.#smooth - 1) * hop) / 2;
  }

  /** Level of each band, of all windows that are averaged. */
  #levels(): Float32Array {
    const levels = new Float32Array(this.#bandCount);
    for (let k = 0; k < this.#sum.length; k++) levels[this.#bands[k]] += this.#sum[k];
    for (let b = 0; b < levels.length; b++) levels[b] = powerToDb(levels[b] / this.#widths[b] + 1e-20);
    return levels;
  }

  #keep(moment: Moment): void {
    this.#moments.push(moment);
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
    const first = followLevels(
      this.#followed,
      this.#floors(live).map((floor) => floor + ABOVE_FLOOR_DB)
    );
    const judged = this.#judge(moves(first) ? this.#levelled(live, first) : live, perSecond);
    return judged && this.#described(judged);
  }

  #floors(moments: readonly Moment[]): number[] {
    return Array.from({ length: this.#bandCount }, (_, b) =>
      percentile(
        moments.map(({ levels }) => levels[b]),
        FLOOR_PERCENTILE
      )
    );
  }

  /** The moments as they would be had the noise kept its level. */
  #levelled(moments: readonly Moment[], track: readonly TrackNode[]): Moment[] {
    const shares = partShares(this.#bands.length, this.sampleRate / this.#frames.size);
    const edges = partEdges(this.#bandCount);
    let [last, factors] = ["", new Float64Array(0)];
    return moments.map(({ frame, power, levels }) => {
      const offsets = offsetsAt(track, frame);
      if (offsets.join(" ") !== last) {
        last = offsets.join(" ");
        factors = Float64Array.from(power, (_, k) => powerFactor(shares, k, offsets, -1));
      }
      const flat = power.map((p, k) => p * factors[k]);
      return {
        frame,
        power: flat,
        levels: levels.map((level, b) => level - offsets[edges.findLastIndex((edge) => edge <= b)]),
        mean: meanOf(flat)
      };
    });
  }

  /** What the noise is like, and how its level moves; the profile of one that stays gets the level that fits best. */
  #described({ mean, seconds, sure, part }: Judged): FoundNoise {
    const sums = new Float64Array(this.#bandCount);
    mean.forEach((p, k) => (sums[this.#bands[k]] += p));
    // What is covered most of the time cannot be followed, nor fitted.
    const path = part
      ? []
      : followLevels(
          this.#followed,
          Array.from(sums, (sum, b) => powerToDb((sum / this.#widths[b]) * this.#smooth + 1e-20))
        );
    const steady = !moves(path);
    const shares = partShares(mean.length, this.sampleRate / this.#frames.size);
    const powers = (offsets: readonly number[]) => mean.map((p, k) => p * powerFactor(shares, k, offsets, 1));
    const fitted =
      steady && !part
        ? powers(
            path[0].offsets.map((o) =>
              Math.max(-MOST_FIT_DB, Math.min(seconds < ALONE_SECONDS ? 0 : MOST_UP_DB, o))
            )
          )
        : mean;
    const levels = (steady ? [fitted] : path.map(({ offsets }) => powers(offsets))).map((power) =>
      powerToDb(power.reduce((a, b) => a + b, 0) / (this.#frames.energy * this.#frames.size))
    );
    return {
      profile: { sampleRate: this.sampleRate, power: smoothedProfile(fitted, this.#frames.energy) },
      levelDb: levels.reduce((a, b) => Math.min(a, b)),
      loudestDb: levels.reduce((a, b) => Math.max(a, b)),
      sure,
      track: steady ? [] : path
    };
  }

  /** Whether there is noise in moments of which the noise keeps its level; its mean power, and whether that is sure. */
  #judge(live: readonly Moment[], perSecond: number): Judged | undefined {
    const bands = Array.from({ length: this.#bandCount }, (_, b) => b);
    const floors = this.#floors(live);
    const near = ({ levels }: Moment, b: number) => levels[b] < floors[b] + NEAR_DB;
    const shares = bands.map((b) => live.reduce((n, moment) => n + Number(near(moment, b)), 0) / live.length);
    const share = median(shares);
    const quietIn = (some: readonly number[]) =>
      live.filter((moment) => some.filter((b) => near(moment, b)).length * 2 > some.length);
    const crowding = this.#crowding(live, floors);
    const seen = { shares, crowding, floors, loudest: this.#loudest(live) };
    const everywhere = quietIn(bands);
    const whole =
      (share >= LEAST_SHARE && everywhere.length / perSecond >= LEAST_SECONDS) ||
      (everywhere.length / perSecond >= RARE_SECONDS && crowded(crowding));
    const wanted = whole ? bands : knownBands(seen);
    const quiet = whole ? everywhere : quietIn(wanted);
    const seconds = quiet.length / perSecond;
    if (seconds < LEAST_SECONDS) return undefined;
    // In each band only what is at the floor there: an s may lie over a moment that is quiet elsewhere.
    const mean = new Float64Array(live[0].power.length);
    const counts = new Float64Array(bands.length);
    for (const moment of quiet) {
      const at = bands.map((b) => Number(wanted.includes(b) && near(moment, b)));
      at.forEach((one, b) => (counts[b] += one));
      moment.power.forEach((p, k) => (mean[k] += at[this.#bands[k]] * p));
    }
    mean.forEach((_, k) => (mean[k] /= Math.max(1, counts[this.#bands[k]])));
    if (!this.#isNoise(mean, live, quiet, wanted)) return undefined;
    const known = (whole ? trustedBands(seen) : wanted).filter((b) => counts[b] > 0);
    (whole ? cap : spread)({ mean, known, bands: this.#bands, widths: this.#widths });
    this.#lower(mean, floors);
    return { mean, seconds, sure: share >= SURE_SHARE, part: !whole };
  }

  /** Level of the loudest band where it is loud, in dB. */
  #loudest(live: readonly Moment[]): number {
    const levels = Array.from({ length: this.#bandCount }, (_, b) =>
      percentile(
        live.map((moment) => moment.levels[b]),
        0.95
      )
    );
    return Math.max(...levels);
  }

  /** How many more moments lie at each band's floor than a little above it. */
  #crowding(live: readonly Moment[], floors: readonly number[]): number[] {
    return floors.map((floor, b) => {
      const within = (from: number, to: number) =>
        live.reduce((n, { levels }) => n + Number(levels[b] >= floor + from && levels[b] < floor + to), 0);
      return within(...AT_FLOOR_DB) / (within(...ABOVE_DB) + 1);
    });
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

  /** Whether what lies at the floor of these bands is spread over each, and all else stands out of it. */
  #isNoise(
    mean: Float64Array,
    live: readonly Moment[],
    quiet: readonly Moment[],
    wanted: readonly number[]
  ): boolean {
    const logs = new Float64Array(this.#bandCount);
    const sums = new Float64Array(this.#bandCount);
    mean.forEach((p, k) => {
      const b = this.#bands[k];
      logs[b] += kernels.log(p + 1e-30);
      sums[b] += p + 1e-30;
    });
    const flat = Array.from(this.#widths, (w, b) =>
      w > 2 && wanted.includes(b) ? kernels.exp(logs[b] / w) / (sums[b] / w) : NaN
    ).filter((f) => f > 0);
    const lower = percentile(flat, 0.25);
    const risen = (level: (moment: Moment) => number) =>
      percentile(live.map(level), 0.95) - median(quiet.map(level));
    const rise =
      wanted.length === this.#bandCount
        ? risen(({ mean: p }) => powerToDb(p))
        : median(wanted.map((b) => risen(({ levels }) => levels[b])));
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

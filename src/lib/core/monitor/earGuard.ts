// Keeps a switch from hurting ears: after a change the monitor rises by so much at once, then slowly. Only what is monitored passes here, never a render.
import { BiquadCascade } from "../audio/biquadCascade";
import { StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { kWeighting } from "../measure/kWeighting";

/** How far the monitor may rise at once, LU, when nothing else is set. */
export const GUARD_LU = 6;
/** Then it rises by so much a second. */
export const GUARD_RISE_LU = 6;
/** What was heard in the last seconds counts: a pause just before the switch is no quiet sound. */
const HEARD_SECONDS = 3;
/** So long a change may be what a loud sound comes from. */
const WATCH_SECONDS = 3;
/** Frames that are judged together: about 5 ms. */
const PIECE = 256;
/** Windows in pieces, up to that of momentary loudness (400 ms, ITU-R BS.1770-5): of a sound that has just begun the shorter ones are known. */
const WINDOWS = [1, 3, 10, 30, 75] as const;
const LONGEST = 75;
/** Pieces so far below the loudest are pauses: what they say of a sound does not count (-20 dB). */
const PAUSE = 0.01;
/** In the first pieces after a change a sound may just be coming in: their level is that of their loudest stretch of so many frames. */
const FIRST = 4;
const STRETCH = 64;
/** Frames in which the monitor is turned down: too short for ears. A switch comes in over 15 ms, so that one fall is small. */
const FALL = 16;
/** Quieter than this nothing was heard: then the first sound may be as loud as this and the step. */
const FLOOR_LUFS = -60;
const OFFSET = -0.691;

const loudness = (power: number) => (power > 0 ? OFFSET + 10 * Math.log10(power) : -Infinity);

/** The mean of the last numbers, as many as have come, and its highest of late. */
class RunningMean {
  readonly #ring: Float64Array;
  readonly #means: Float64Array;
  #at = 0;
  #count = 0;
  #sum = 0;

  constructor(size: number, remembered: number) {
    this.#ring = new Float64Array(size);
    this.#means = new Float64Array(remembered);
  }

  push(value: number): number {
    const { length } = this.#ring;
    this.#sum += value - this.#ring[this.#count % length];
    this.#ring[this.#count % length] = value;
    this.#count++;
    // Rounding must not leave a trace of a loud sound behind.
    if (this.#count % length === 0) this.#sum = this.#ring.reduce((sum, v) => sum + v, 0);
    const mean = Math.max(0, this.#sum) / Math.min(this.#count, length);
    this.#means[this.#at] = mean;
    this.#at = (this.#at + 1) % this.#means.length;
    return mean;
  }

  get highest(): number {
    return this.#means.reduce((most, mean) => Math.max(most, mean), 0);
  }
}

/** What has come since a change: its last pieces that are no pauses. */
class Coming {
  #pieces: number[] = [];
  #loudest = 0;
  pieces = 0;
  seconds = 0;

  /** Takes the power of a piece. */
  push(power: number): void {
    this.pieces++;
    if (power > this.#loudest) {
      this.#loudest = power;
      this.#pieces = this.#pieces.filter((one) => one >= power * PAUSE);
    }
    if (power < this.#loudest * PAUSE || power === 0) return;
    this.#pieces.push(power);
    if (this.#pieces.length > LONGEST) this.#pieces.shift();
  }

  /** The longest window that is known, by its number; undefined as long as nothing has sounded. */
  get window(): number | undefined {
    const count = this.#pieces.length;
    const longer = WINDOWS.findIndex((size) => size > count);
    return count === 0 ? undefined : longer < 0 ? WINDOWS.length - 1 : longer - 1;
  }

  /** Mean power of that window. */
  mean(window: number): number {
    const last = this.#pieces.slice(-WINDOWS[window]);
    return last.reduce((sum, power) => sum + power, 0) / last.length;
  }
}

/** A change that is watched: what may be let through in each window, and the highest that has been heard in it, in LUFS. */
interface Watch {
  readonly most: number[];
  readonly heard: number[];
  readonly coming: Coming;
}

/**
 * Holds the loudness of what is monitored after a change: over windows up to that of momentary loudness it may pass the highest of the last 3 s
 * before by the step, which then rises with time as long as something sounds. Without a change, and where nothing would jump, every sample stays as
 * it is.
 */
export class EarGuard {
  readonly #weighting: BiquadCascade;
  readonly #work = new StereoBlock(PIECE);
  readonly #sums = new Buffer(16);
  readonly #monitored: readonly RunningMean[];
  #heardAny = false;
  #watch: Watch | null = null;
  #gainDb = 0;

  /** @param stepLu how far the level may rise at once, in LU; Infinity: the guard is off */
  constructor(
    private readonly sampleRate: number,
    public stepLu: number = GUARD_LU
  ) {
    const [b0, b1, b2, a1, a2, c0, c1, c2, d1, d2] = kWeighting(sampleRate);
    this.#weighting = new BiquadCascade([
      [b0, b1, b2, a1, a2],
      [c0, c1, c2, d1, d2]
    ]);
    const remembered = Math.round((HEARD_SECONDS * sampleRate) / PIECE);
    this.#monitored = WINDOWS.map((size) => new RunningMean(size, remembered));
  }

  /** How far the monitor is turned down now, in dB; 0: not at all. */
  get easedDb(): number {
    return this.#gainDb;
  }

  /** What comes from now on may be another sound. */
  changed(): void {
    if (!this.#heardAny) return;
    const heard = this.#monitored.map((mean) => Math.max(FLOOR_LUFS, loudness(mean.highest)));
    this.#watch = { heard, most: heard.map((level) => level + this.stepLu), coming: new Coming() };
  }

  /** n frames, any; l, r: addresses of f32 blocks, in place. */
  process(l: number, r: number, n: number): void {
    for (let done = 0; done < n; done += PIECE) {
      const m = Math.min(PIECE, n - done);
      this.#piece(l + done * 4, r + done * 4, m);
    }
  }

  #piece(l: number, r: number, n: number): void {
    const { mean, most } = this.#powers(l, r, n);
    const before = this.#gainDb;
    if (this.#watch) this.#gainDb = this.#wanted(this.#watch, mean, most, n / this.sampleRate);
    if (before !== 0 || this.#gainDb !== 0) this.#turn(l, r, n, before, this.#gainDb);
    const power = mean * 10 ** (this.#gainDb / 10);
    const watch = this.#watch;
    this.#monitored.forEach((window, i) => {
      const now = loudness(window.push(power));
      if (watch) watch.heard[i] = Math.max(watch.heard[i], now);
    });
    this.#heardAny = true;
  }

  /** The gain for a piece. Only what sounds lets more through: a pause does not. */
  #wanted({ most, heard, coming }: Watch, mean: number, loudest: number, seconds: number): number {
    const before = this.#gainDb;
    const rise = GUARD_RISE_LU * seconds;
    coming.push(coming.pieces < FIRST ? loudest : mean);
    for (let i = 0; i < most.length; i++) most[i] = Math.min(most[i] + rise, heard[i] + this.stepLu);
    const window = coming.window;
    if (window === undefined) return Math.min(0, before + rise);
    let gain = Math.min(0, before + rise);
    if (Number.isFinite(this.stepLu))
      for (let i = 0; i <= window; i++) gain = Math.min(gain, most[i] - loudness(coming.mean(i)));
    if (loudness(mean) > FLOOR_LUFS) coming.seconds += seconds;
    if (gain === 0 && before === 0 && coming.seconds > WATCH_SECONDS) this.#watch = null;
    return gain;
  }

  #turn(l: number, r: number, n: number, from: number, to: number): void {
    const [a, b] = [10 ** (from / 20), 10 ** (to / 20)];
    const ramp = to < from ? Math.min(FALL, n) : n;
    const { ptr } = this.#work.left;
    for (const p of [l, r]) {
      kernels.copy(ptr, p, ramp);
      kernels.clear(p, ramp);
      kernels.addRamped(p, ptr, ramp, a, (b - a) / ramp);
      if (n > ramp) kernels.gain(p + ramp * 4, n - ramp, b);
    }
  }

  /** K-weighted power of a piece, both channels together: its mean, and that of its loudest stretch. */
  #powers(l: number, r: number, n: number): { mean: number; most: number } {
    const { left, right } = this.#work;
    kernels.copy(left.ptr, l, n);
    kernels.copy(right.ptr, r, n);
    this.#weighting.process(left.ptr, right.ptr, n);
    let sum = 0;
    let most = 0;
    for (let at = 0; at < n; at += STRETCH) {
      const m = Math.min(STRETCH, n - at);
      this.#sums.f64.fill(0);
      kernels.levels(left.ptr + at * 4, m, this.#sums.ptr);
      kernels.levels(right.ptr + at * 4, m, this.#sums.ptr);
      sum += this.#sums.f64[1];
      most = Math.max(most, this.#sums.f64[1] / m);
    }
    return { mean: sum / n, most };
  }

  release(): void {
    for (const one of [this.#weighting, this.#work, this.#sums]) one.release();
  }
}

// A long averaged spectrum in which steady lines are found and measured, by the phase that a line gains from one transform to the next
// (J. L. Flanagan, R. M. Golden, "Phase vocoder", Bell System Technical Journal 45, 1966).
// A frame weighs the less the louder it is around a line, so what covers the line for a while does not hide it.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { HannTransform } from "./hannTransform";

// A frame, seconds at most: lines of the beat of a drum, two to the second, still run into each other.
const FRAME = 1.6;
const MAX_SIZE = 65536;
// Surroundings of a line reach so far to both sides, Hz.
const BESIDE_HZ = 8;
// Bins to each side that belong to the line itself (Hann window).
const OWN = 3;
// A line counts when it stands that far out, in the mean over time of its level's distance, nepers of power (8 dB).
const STANDS_OUT = Math.log(6.3);
// What lies so far below a frame's power is rounding (120 dB).
const ROUNDING = 1e-12;
// Frames apart at which a line's phase is compared.
const LAGS = [1, 3, 9, 27];

/** A spectral line: its frequency in Hz, its amplitude. */
export interface Line {
  readonly hertz: number;
  readonly amplitude: number;
}

export class LineSpectrum {
  /** Samples of a frame. */
  readonly size: number;
  readonly #hop: number;
  readonly #transform: HannTransform;
  readonly #input: Buffer;
  /** Sums over frames, bin by bin: of the weights, of weighted power, of how far the bin stands out. */
  readonly #weights: Float64Array;
  readonly #power: Float64Array;
  readonly #out: Float64Array;
  readonly #around: Float64Array;
  /** For each lag: weighted sum over frames of X(t) conj X(t - lag). */
  readonly #turns: readonly { readonly lag: number; readonly re: Float64Array; readonly im: Float64Array }[];
  /** The last frames' spectra, as many as the longest lag. */
  readonly #past: readonly { readonly re: Float64Array; readonly im: Float64Array }[];
  #frames = 0;
  #heard = 0;
  #have = 0;

  /**
   * @param frames frames that will come; shorter sounds are looked at with less resolution
   * @param highestHz highest frequency that will be asked for
   * @param eachFrame called with the pointer to each frame's samples (f32, `size` of them), an eighth of a frame apart
   */
  constructor(
    private readonly sampleRate: number,
    frames: number,
    highestHz: number,
    private readonly eachFrame: (samples: number) => void
  ) {
    let n = 4096;
    while (n < MAX_SIZE && n * 2 < FRAME * sampleRate && n * 4 <= frames) n *= 2;
    this.size = n;
    this.#hop = n / 8;
    this.#transform = new HannTransform(n);
    this.#input = new Buffer(n * 4);
    const bins = Math.min(n / 2, Math.ceil(((highestHz + BESIDE_HZ) * n) / sampleRate));
    this.#weights = new Float64Array(bins);
    this.#power = new Float64Array(bins);
    this.#out = new Float64Array(bins);
    this.#around = new Float64Array(bins);
    const pair = () => ({ re: new Float64Array(bins), im: new Float64Array(bins) });
    this.#turns = LAGS.map((lag) => ({ lag, ...pair() }));
    this.#past = Array.from({ length: LAGS[LAGS.length - 1] }, pair);
  }

  push(l: number, r: number, n: number): void {
    const { ptr } = this.#input;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.size - this.#have);
      const to = ptr + this.#have * 4;
      kernels.copy(to, l + done * 4, m);
      kernels.addScaled(to, r + done * 4, m, 1);
      this.#have += m;
      done += m;
      if (this.#have < this.size) continue;
      this.#frame();
      this.eachFrame(ptr);
      kernels.copy(ptr, ptr + this.#hop * 4, this.size - this.#hop);
      this.#have = this.size - this.#hop;
    }
  }

  #frame(): void {
    const n = this.size;
    const f32 = this.#transform.of(this.#input.ptr);
    if (this.#measureSurroundings(f32)) {
      this.#heard++;
      for (let k = 0; k < this.#out.length; k++) {
        const power = f32[k] ** 2 + f32[n + k] ** 2;
        const weight = 1 / this.#around[k];
        this.#weights[k] += weight;
        this.#power[k] += power * weight;
        this.#out[k] += Math.log(Math.max(ROUNDING, power * weight));
      }
      this.#compareWithPast(f32);
    }
    const slot = this.#past[this.#frames % this.#past.length];
    slot.re.set(f32.subarray(0, slot.re.length));
    slot.im.set(f32.subarray(n, n + slot.im.length));
    this.#frames++;
  }

  /** Mean power of the bins beside each bin, those of a line itself left out; false in silence. */
  #measureSurroundings(f32: Float32Array): boolean {
    const n = this.size;
    const bins = this.#around.length;
    const width = Math.max(OWN + 1, Math.round((BESIDE_HZ * n) / this.sampleRate));
    const sums = new Float64Array(bins + 1);
    for (let k = 0; k < bins; k++) sums[k + 1] = sums[k] + f32[k] ** 2 + f32[n + k] ** 2;
    for (let k = 0; k < bins; k++) {
      const from = Math.max(0, k - width);
      const to = Math.min(bins, k + width + 1);
      const ownFrom = Math.max(from, k - OWN);
      const ownTo = Math.min(to, k + OWN + 1);
      const power = sums[to] - sums[ownTo] + sums[ownFrom] - sums[from];
      this.#around[k] = Math.max(sums[bins] * ROUNDING, power / (to - ownTo + ownFrom - from));
    }
    return sums[bins] > 0;
  }

  #compareWithPast(f32: Float32Array): void {
    const n = this.size;
    for (const { lag, re, im } of this.#turns) {
      if (this.#frames < lag) break;
      const past = this.#past[(this.#frames - lag) % this.#past.length];
      for (let k = 0; k < re.length; k++) {
        const weight = 1 / this.#around[k];
        re[k] += weight * (f32[k] * past.re[k] + f32[n + k] * past.im[k]);
        im[k] += weight * (f32[n + k] * past.re[k] - f32[k] * past.im[k]);
      }
    }
  }

  /** The lines that stand out within `tolerance` (a share) of a frequency. */
  lines(hertz: number, tolerance: number): Line[] {
    const bin = this.size / this.sampleRate;
    const from = Math.max(1, Math.floor(hertz * (1 - tolerance) * bin));
    const to = Math.min(this.#out.length - 2, Math.ceil(hertz * (1 + tolerance) * bin));
    const out = this.#out;
    const found: Line[] = [];
    for (let k = from; k <= to; k++) {
      if (this.#heard === 0 || out[k] < STANDS_OUT * this.#heard) continue;
      if (out[k] < out[k - 1] || out[k] < out[k + 1]) continue;
      const exact = this.#fine(k);
      const magnitude = Math.sqrt(this.#power[k] / this.#weights[k]);
      found.push({ hertz: exact, amplitude: this.#transform.amplitude(magnitude, exact * bin - k) });
    }
    return found;
  }

  /** Frequency of the line at a bin. */
  #fine(at: number): number {
    // The shortest lag is sure of the whole turns; each longer one is finer, and sure through the one before.
    let found = (at * this.sampleRate) / this.size;
    for (const { lag, re, im } of this.#turns) {
      if (this.#frames < lag * 2) break;
      const turns = Math.atan2(im[at], re[at]) / (2 * Math.PI);
      const seconds = (lag * this.#hop) / this.sampleRate;
      found = (Math.round(found * seconds - turns) + turns) / seconds;
    }
    return found;
  }

  release(): void {
    this.#transform.release();
    this.#input.release();
  }
}

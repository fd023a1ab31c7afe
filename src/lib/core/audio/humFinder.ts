// Finds the fundamental of mains hum. Coarsely by the lines that stand out of a long averaged spectrum, finely by the phase that a line
// gains from one transform to the next (J. L. Flanagan, R. M. Golden, "Phase vocoder", Bell System Technical Journal 45, 1966).
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";
import { hann } from "./windows";

const FROM_HZ = 45;
const TO_HZ = 65;
const STEP_HZ = 0.02;
const HARMONICS = 10;
const MAX_SIZE = 65536;
// A line counts when it stands this far out of its surroundings (power ratio: 10 dB).
const STANDS_OUT = 10;
// Frames apart at which a line's phase is compared.
const LAGS = [1, 3, 9, 27];

export class HumFinder {
  readonly #n: number;
  readonly #hop: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #input: Buffer;
  readonly #work: Buffer;
  readonly #power: Float64Array;
  /** For each lag: sum over frames of X(t) conj X(t - lag), up to the highest line looked at. */
  readonly #turns: readonly { readonly lag: number; readonly re: Float64Array; readonly im: Float64Array }[];
  /** The last frames' spectra, as many as the longest lag. */
  readonly #past: readonly { readonly re: Float64Array; readonly im: Float64Array }[];
  #frames = 0;
  #have = 0;

  /** @param frames frames that will come; shorter sounds are looked at with less resolution */
  constructor(
    private readonly sampleRate: number,
    frames: number
  ) {
    let n = 4096;
    while (n < MAX_SIZE && n < sampleRate * 1.2 && n * 4 <= frames) n *= 2;
    this.#n = n;
    this.#hop = n / 8;
    this.#fft = new Fft(n);
    this.#window = new Buffer(n * 4);
    this.#window.f32.set(hann(n));
    this.#input = new Buffer(n * 4);
    this.#work = new Buffer(n * 8);
    const bins = Math.min(n / 2, Math.ceil((TO_HZ * (HARMONICS + 1) * n) / sampleRate));
    this.#power = new Float64Array(bins);
    const pair = () => ({ re: new Float64Array(bins), im: new Float64Array(bins) });
    this.#turns = LAGS.map((lag) => ({ lag, ...pair() }));
    this.#past = Array.from({ length: LAGS[LAGS.length - 1] }, pair);
  }

  push(l: number, r: number, n: number): void {
    const { ptr } = this.#input;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#n - this.#have);
      const to = ptr + this.#have * 4;
      kernels.copy(to, l + done * 4, m);
      kernels.addScaled(to, r + done * 4, m, 1);
      this.#have += m;
      done += m;
      if (this.#have < this.#n) continue;
      this.#frame();
      kernels.copy(ptr, ptr + this.#hop * 4, this.#n - this.#hop);
      this.#have = this.#n - this.#hop;
    }
  }

  #frame(): void {
    const n = this.#n;
    const re = this.#work.ptr;
    kernels.multiply(re, this.#input.ptr, this.#window.ptr, n);
    kernels.clear(re + n * 4, n);
    this.#fft.forward(re, re + n * 4);
    const f32 = this.#work.f32;
    const slot = this.#past[this.#frames % this.#past.length];
    for (let k = 0; k < this.#power.length; k++) this.#power[k] += f32[k] ** 2 + f32[n + k] ** 2;
    for (const { lag, re: sumRe, im: sumIm } of this.#turns) {
      if (this.#frames < lag) break;
      const past = this.#past[(this.#frames - lag) % this.#past.length];
      for (let k = 0; k < sumRe.length; k++) {
        sumRe[k] += f32[k] * past.re[k] + f32[n + k] * past.im[k];
        sumIm[k] += f32[n + k] * past.re[k] - f32[k] * past.im[k];
      }
    }
    slot.re.set(f32.subarray(0, slot.re.length));
    slot.im.set(f32.subarray(n, n + slot.im.length));
    this.#frames++;
  }

  /** How far the bin nearest to a frequency stands out of its surroundings, 10 Hz to both sides: a power ratio. */
  #standsOut(hertz: number): number {
    const width = Math.max(4, Math.round((10 * this.#n) / this.sampleRate));
    const at = Math.round((hertz * this.#n) / this.sampleRate);
    if (at + width >= this.#power.length) return 0;
    const around: number[] = [];
    for (let k = Math.max(1, at - width); k <= at + width; k++)
      if (Math.abs(k - at) > 3) around.push(this.#power[k]);
    around.sort((a, b) => a - b);
    const median = around[around.length >> 1] ?? 0;
    const peak = Math.max(this.#power[at - 1], this.#power[at], this.#power[at + 1]);
    return median > 0 ? peak / median : peak > 0 ? 1e12 : 0;
  }

  /** Frequency of the line nearest to `hertz`, from its phase. */
  #fine(hertz: number): { hertz: number; weight: number } {
    const near = Math.round((hertz * this.#n) / this.sampleRate);
    let at = near;
    for (let k = near - 1; k <= near + 1; k++) if (this.#power[k] > this.#power[at]) at = k;
    // The shortest lag is sure of the whole turns; each longer one is finer, and sure through the one before.
    let found = (at * this.sampleRate) / this.#n;
    for (const { lag, re, im } of this.#turns) {
      if (this.#frames < lag * 2) break;
      const turns = Math.atan2(im[at], re[at]) / (2 * Math.PI);
      const seconds = (lag * this.#hop) / this.sampleRate;
      found = (Math.round(found * seconds - turns) + turns) / seconds;
    }
    return { hertz: found, weight: this.#power[at] };
  }

  /** The fundamental in Hz, rounded to 0.0001; 0 when no hum stands out. */
  finish(): number {
    if (this.#frames < 2) return 0;
    let best = 0;
    let score = 0;
    for (let hertz = FROM_HZ; hertz <= TO_HZ; hertz += STEP_HZ) {
      let sum = 0;
      for (let h = 1; h <= HARMONICS; h++) {
        const ratio = this.#standsOut(h * hertz);
        if (ratio > STANDS_OUT) sum += Math.log10(ratio);
      }
      if (sum > score) {
        score = sum;
        best = hertz;
      }
    }
    if (best === 0) return 0;
    let sum = 0;
    let weights = 0;
    for (let h = 1; h <= HARMONICS; h++) {
      if (this.#standsOut(h * best) <= STANDS_OUT) continue;
      const line = this.#fine(h * best);
      if (Math.abs(line.hertz / h - best) > 1) continue;
      // An error of a line is divided by its number; strong lines are surer.
      const weight = h * h * Math.sqrt(line.weight);
      sum += (line.hertz / h) * weight;
      weights += weight;
    }
    return weights > 0 ? Math.round((sum / weights) * 1e4) / 1e4 : 0;
  }

  release(): void {
    for (const b of [this.#fft, this.#window, this.#input, this.#work]) b.release();
  }
}

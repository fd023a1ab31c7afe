// Linear-phase filters. Window method with a Kaiser window: A. V. Oppenheim, R. W. Schafer, "Discrete-Time Signal Processing", section 7.5.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { BLOCK } from "./block";
import { kaiser } from "./windows";

const ATTENUATION_DB = 70;

/** Taps of a linear-phase band-pass, count odd: gain 1 between the edges, -6 dB at them. Hz. */
export function bandPassTaps(from: number, to: number, sampleRate: number, count: number): Float64Array {
  const taps = new Float64Array(count);
  const half = (count - 1) / 2;
  const window = kaiser(count, ATTENUATION_DB);
  for (let i = 0; i < count; i++) {
    const x = i - half;
    const ideal =
      x === 0
        ? (2 * (to - from)) / sampleRate
        : (kernels.sin((2 * Math.PI * to * x) / sampleRate) -
            kernels.sin((2 * Math.PI * from * x) / sampleRate)) /
          (Math.PI * x);
    taps[i] = ideal * window[i];
  }
  return taps;
}

/** One finite impulse response on two channels. */
export class FirPair {
  readonly #taps: Buffer;
  readonly #left: Buffer;
  readonly #right: Buffer;
  readonly #count: number;

  constructor(taps: Float64Array) {
    this.#count = Math.ceil(taps.length / 4) * 4;
    this.#taps = new Buffer(this.#count * 4);
    // Reversed, with zeros before the first: the newest sample meets tap 0.
    for (let i = 0; i < taps.length; i++) this.#taps.f32[this.#count - 1 - i] = taps[i];
    this.#left = new Buffer((this.#count + BLOCK) * 4);
    this.#right = new Buffer((this.#count + BLOCK) * 4);
  }

  /** Filters n ≤ BLOCK frames from l, r to outL, outR. */
  process(l: number, r: number, outL: number, outR: number, n: number): void {
    kernels.fir(l, outL, n, this.#left.ptr, this.#taps.ptr, this.#count);
    kernels.fir(r, outR, n, this.#right.ptr, this.#taps.ptr, this.#count);
  }

  release(): void {
    for (const b of [this.#taps, this.#left, this.#right]) b.release();
  }
}

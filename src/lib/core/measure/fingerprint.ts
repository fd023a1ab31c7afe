// Tells whether two sounds are the same without keeping either: sums of the samples under weights that look like noise.
import { BLOCK } from "../audio/block";
import { Buffer } from "../kernels/memory";
import { kernels } from "../kernels/instance";

const WEIGHTS = 8192;
/** Sounds that differ by less than this share of their own size (-120 dB) are told to be the same. */
const LEAST = 1e-6;

let weights: Buffer | undefined;

/** The weights within ±1, so many more that a block never reaches beyond them. They stay for good. */
function theWeights(): Buffer {
  if (weights) return weights;
  weights = new Buffer((WEIGHTS + BLOCK) * 4);
  for (let i = 0; i < WEIGHTS + BLOCK; i++) {
    // A mix of the index (Marsaglia's xorshift, from memory).
    let x = Math.imul((i % WEIGHTS) + 1, 0x9e3779b1);
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    weights.f32[i] = x / 2 ** 31;
  }
  return weights;
}

/** Whether two sounds with these sums (weighted sum and sum of squares: left, right) are others. */
function differ(a: Float64Array, b: Float64Array): boolean {
  const most = LEAST * Math.sqrt(Math.max(a[1] + a[3], b[1] + b[3]));
  return Math.abs(a[0] - b[0]) > most || Math.abs(a[2] - b[2]) > most;
}

/** The fingerprint of a stereo sound, gathered in blocks. */
export class Fingerprint {
  readonly #weights = theWeights();
  /** Weighted sum and sum of squares: left, right. */
  readonly #sums = new Buffer(32);

  /** l, r: addresses of f32 blocks of n ≤ BLOCK frames; at: the sound's frame that comes first. */
  push(l: number, r: number, n: number, at: number): void {
    const from = this.#weights.ptr + (at % WEIGHTS) * 4;
    kernels.weighted(l, from, n, this.#sums.ptr);
    kernels.weighted(r, from, n, this.#sums.ptr + 16);
  }

  /** Whether another sound of the same length is another one. */
  differs(other: Fingerprint): boolean {
    return differ(this.#sums.f64, other.#sums.f64);
  }

  release(): void {
    this.#sums.release();
  }
}

/** Fingerprints of equal parts of a sound of known length: where two sounds differ. */
export class FingerprintColumns {
  readonly #weights = theWeights();
  readonly #sums: Buffer;

  constructor(
    private readonly length: number,
    private readonly columns: number
  ) {
    this.#sums = new Buffer(columns * 32);
  }

  /** l, r: addresses of f32 blocks of n ≤ BLOCK frames; at: the sound's frame that comes first. */
  push(l: number, r: number, n: number, at: number): void {
    for (let i = 0; i < n;) {
      const column = Math.min(this.columns - 1, Math.floor(((at + i) * this.columns) / this.length));
      const end = Math.ceil(((column + 1) * this.length) / this.columns);
      const m = Math.max(1, Math.min(n - i, end - (at + i)));
      const from = this.#weights.ptr + ((at + i) % WEIGHTS) * 4;
      kernels.weighted(l + i * 4, from, m, this.#sums.ptr + column * 32);
      kernels.weighted(r + i * 4, from, m, this.#sums.ptr + column * 32 + 16);
      i += m;
    }
  }

  /** The parts in which another sound of the same length is another one. */
  differing(other: FingerprintColumns): number[] {
    const [a, b] = [this.#sums.f64, other.#sums.f64];
    const of = (sums: Float64Array, column: number) => sums.subarray(column * 4, column * 4 + 4);
    return Array.from({ length: this.columns }, (_, c) => c).filter((c) => differ(of(a, c), of(b, c)));
  }

  release(): void {
    this.#sums.release();
  }
}

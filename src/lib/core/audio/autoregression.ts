// A sound as an autoregressive process: each sample predicted from those before it, or from those after it.
// S. J. Godsill, P. J. W. Rayner, "Digital Audio Restoration" (1998), chapters 4 and 5.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

/** Power of white noise that the autocorrelation method takes for granted: -100 dBFS. What is alone in silence is so predicted by nothing. */
const HISS = 1e-10;

/** A model of a stretch of sound. Nothing is allocated after it was made; `release` gives its memory back. */
export class Autoregression {
  /** 1 and what is subtracted of the samples before. */
  readonly #a: Buffer;
  readonly #swap: Float64Array;
  readonly #r: Buffer;
  readonly #reflections: Buffer;
  readonly #forward: Buffer;
  readonly #backward: Buffer;
  /** Correlation of the coefficients with themselves. */
  readonly #correlation: Float64Array;
  readonly #matrix: Float64Array;
  readonly #right: Float64Array;

  /**
   * @param order samples that predict one, a multiple of 4
   * @param longest samples that Burg's method is given at most
   * @param gap samples that are interpolated at most
   */
  constructor(
    private readonly order: number,
    longest: number,
    gap: number
  ) {
    this.#a = new Buffer((order + 1) * 8);
    this.#swap = new Float64Array(order + 1);
    this.#r = new Buffer((order + 1) * 8);
    this.#reflections = new Buffer(order * 8);
    this.#forward = new Buffer((longest + 2) * 8);
    this.#backward = new Buffer((longest + 2) * 8);
    this.#correlation = new Float64Array(order + 1);
    this.#matrix = new Float64Array(gap * gap);
    this.#right = new Float64Array(gap);
  }

  /** One step of Levinson's recursion: the coefficients of order k. */
  #reflect(a: Float64Array, k: number, reflection: number): void {
    for (let j = 0; j <= k; j++) this.#swap[j] = a[j] + reflection * a[k - j];
    for (let j = 0; j <= k; j++) a[j] = this.#swap[j];
  }

  #begin(): Float64Array {
    const a = this.#a.f64;
    a.fill(0);
    a[0] = 1;
    return a;
  }

  /** The autocorrelation method on n samples at an address, n even, before which `order` zeros lie. False for silence. */
  fitCorrelation(x: number, n: number): boolean {
    kernels.autocorrelation(x, n, this.order, this.#r.ptr);
    const r = this.#r.f64;
    if (r[0] < 1e-12) return false;
    const a = this.#begin();
    let error = r[0] * (1 + 1e-9) + n * HISS;
    for (let k = 1; k <= this.order; k++) {
      let sum = 0;
      for (let j = 0; j < k; j++) sum += a[j] * r[k - j];
      const reflection = -sum / error;
      this.#reflect(a, k, reflection);
      error *= 1 - reflection * reflection;
      if (error <= 0) return false;
    }
    this.#correlate(a);
    return true;
  }

  /**
   * J. P. Burg's method on n samples at an address, n even: sharp on the few milliseconds around a click, where a voice stays the same. False
   * when there is nothing to model.
   */
  fitBurg(x: number, n: number): boolean {
    const found = kernels.burg(
      x,
      n,
      this.order,
      this.#reflections.ptr,
      this.#forward.ptr,
      this.#backward.ptr
    );
    if (found === 0) return false;
    const a = this.#begin();
    const reflections = this.#reflections.f64;
    for (let k = 1; k <= found; k++) this.#reflect(a, k, reflections[k - 1]);
    this.#correlate(a);
    return true;
  }

  #correlate(a: Float64Array): void {
    for (let k = 0; k <= this.order; k++) {
      let sum = 0;
      for (let j = 0; j + k <= this.order; j++) sum += a[j] * a[j + k];
      this.#correlation[k] = sum;
    }
  }

  /** Magnitudes of the errors of n samples at an address, a multiple of 4, predicted from the past and from the future. */
  errors(x: number, n: number, past: number, future: number): void {
    kernels.predictionErrors(x, n, this.#a.ptr, this.order, past, future);
  }

  /** The error of x[at], predicted from the samples before it (direction 1) or after it (-1). */
  errorAt(x: Float64Array, at: number, direction: number): number {
    const a = this.#a.f64;
    let error = 0;
    for (let k = 0; k <= this.order; k++) error += a[k] * x[at - k * direction];
    return error;
  }

  /**
   * Puts those samples into [begin, end) that make the sum of squared prediction errors least: A. J. E. M. Janssen, R. N. J. Veldhuis,
   * L. B. Vries, IEEE Trans. ASSP 34 (1986). `order` samples to both sides are known.
   */
  interpolate(x: Float64Array, begin: number, end: number): void {
    const m = end - begin;
    const L = this.#matrix;
    const b = this.#right;
    const c = this.#correlation;
    for (let i = 0; i < m; i++) {
      let sum = 0;
      for (let k = -this.order; k <= this.order; k++) {
        const j = begin + i + k;
        if (j < begin || j >= end) sum += c[Math.abs(k)] * x[j];
      }
      b[i] = -sum;
    }
    // Cholesky's decomposition.
    for (let i = 0; i < m; i++)
      for (let j = 0; j <= i; j++) {
        let sum = i - j <= this.order ? c[i - j] : 0;
        if (i === j) sum *= 1 + 1e-10;
        for (let k = 0; k < j; k++) sum -= L[i * m + k] * L[j * m + k];
        if (i === j) {
          if (sum <= 0) return;
          L[i * m + i] = Math.sqrt(sum);
        } else L[i * m + j] = sum / L[j * m + j];
      }
    for (let i = 0; i < m; i++) {
      for (let k = 0; k < i; k++) b[i] -= L[i * m + k] * b[k];
      b[i] /= L[i * m + i];
    }
    for (let i = m - 1; i >= 0; i--) {
      for (let k = i + 1; k < m; k++) b[i] -= L[k * m + i] * b[k];
      b[i] /= L[i * m + i];
    }
    for (let i = 0; i < m; i++) x[begin + i] = b[i];
  }

  release(): void {
    for (const buffer of [this.#a, this.#r, this.#reflections, this.#forward, this.#backward])
      buffer.release();
  }
}

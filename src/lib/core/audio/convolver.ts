// Uniformly partitioned convolution, overlap-save: T. G. Stockham, "High-speed convolution and correlation", AFIPS (1966); partitions with a
// frequency-domain delay line: W. G. Gardner, JAES 43 (1995), section 2. Partitions of 8192 frames: measured as the fastest.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";

/** Frames of a partition, and the delay of the output. */
export const CONVOLVER_LATENCY = 8192;
const B = CONVOLVER_LATENCY;
const N = 2 * B;

/** A complex spectrum of N bins, planar. */
class Spectrum {
  readonly #data = new Buffer(N * 8);
  readonly re = this.#data.ptr;
  readonly im = this.#data.ptr + N * 4;

  set(left: ArrayLike<number>, right: ArrayLike<number>, from: number): void {
    const f32 = this.#data.f32;
    f32.fill(0);
    for (let i = 0; i < B && from + i < left.length; i++) {
      f32[i] = left[from + i];
      f32[N + i] = right[from + i];
    }
  }

  release(): void {
    this.#data.release();
  }
}

/**
 * Convolves a stereo pair with a stereo impulse response: left with left, right with right. The pair goes as one complex signal
 * z = l + i r; with A = (Hl + Hr) / 2 and B = (Hl - Hr) / 2 the result's spectrum is A Z + B Z̃, Z̃ that of l - i r.
 */
export class Convolver {
  readonly #fft = new Fft(N);
  readonly #common: Spectrum[] = [];
  readonly #difference: Spectrum[] = [];
  readonly #past: { z: Spectrum; mirror: Spectrum | undefined }[] = [];
  readonly #sum = new Spectrum();
  readonly #input = new Buffer(N * 8);
  readonly #output = new Buffer(B * 8);
  #newest = 0;
  #at: number;

  /** @param phase frames that have already passed of the first block, 0 to B - 1 */
  constructor(left: Float32Array, right: Float32Array, phase = 0) {
    const same = left.every((x, i) => x === right[i]);
    const count = Math.max(1, Math.ceil(left.length / B));
    for (let p = 0; p < count; p++) {
      const mean = Float32Array.from(left.subarray(p * B, (p + 1) * B), (x, i) => (x + right[p * B + i]) / 2);
      const half = Float32Array.from(left.subarray(p * B, (p + 1) * B), (x, i) => (x - right[p * B + i]) / 2);
      this.#common.push(this.#realSpectrum(mean));
      if (!same) this.#difference.push(this.#realSpectrum(half));
      this.#past.push({ z: new Spectrum(), mirror: same ? undefined : new Spectrum() });
    }
    this.#at = phase;
  }

  #realSpectrum(part: Float32Array): Spectrum {
    const spectrum = new Spectrum();
    spectrum.set(part, new Float32Array(part.length), 0);
    this.#fft.forward(spectrum.re, spectrum.im);
    return spectrum;
  }

  /** In place, any n; the output is B frames late. */
  process(l: number, r: number, n: number): void {
    const inL = this.#input.ptr;
    const inR = this.#input.ptr + N * 4;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, B - this.#at);
      const at = this.#at * 4;
      kernels.copy(inL + B * 4 + at, l + done * 4, m);
      kernels.copy(inR + B * 4 + at, r + done * 4, m);
      kernels.copy(l + done * 4, this.#output.ptr + at, m);
      kernels.copy(r + done * 4, this.#output.ptr + B * 4 + at, m);
      this.#at += m;
      done += m;
      if (this.#at === B) {
        this.#block();
        this.#at = 0;
      }
    }
  }

  #block(): void {
    const count = this.#past.length;
    this.#newest = (this.#newest + count - 1) % count;
    const { z, mirror } = this.#past[this.#newest];
    kernels.copy(z.re, this.#input.ptr, N);
    kernels.copy(z.im, this.#input.ptr + N * 4, N);
    this.#fft.forward(z.re, z.im);
    if (mirror) kernels.mirrored(z.re, z.im, mirror.re, mirror.im, N);
    const { re, im } = this.#sum;
    kernels.clear(re, N);
    kernels.clear(im, N);
    for (let p = 0; p < count; p++) {
      const past = this.#past[(this.#newest + p) % count];
      const common = this.#common[p];
      kernels.complexMultiplyAdd(re, im, past.z.re, past.z.im, common.re, common.im, N);
      if (!past.mirror) continue;
      const difference = this.#difference[p];
      kernels.complexMultiplyAdd(re, im, past.mirror.re, past.mirror.im, difference.re, difference.im, N);
    }
    this.#fft.inverse(re, im);
    kernels.copy(this.#output.ptr, re + B * 4, B);
    kernels.copy(this.#output.ptr + B * 4, im + B * 4, B);
    kernels.copy(this.#input.ptr, this.#input.ptr + B * 4, B);
    kernels.copy(this.#input.ptr + N * 4, this.#input.ptr + (N + B) * 4, B);
  }

  release(): void {
    for (const s of [...this.#common, ...this.#difference, this.#sum, this.#fft, this.#input, this.#output])
      s.release();
    for (const { z, mirror } of this.#past) {
      z.release();
      mirror?.release();
    }
  }
}

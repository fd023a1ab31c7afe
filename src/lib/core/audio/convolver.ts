// Uniformly partitioned convolution, overlap-save: T. G. Stockham, "High-speed convolution and correlation", AFIPS (1966); partitions with a
// frequency-domain delay line: W. G. Gardner, JAES 43 (1995), section 2. Partitions of 8192 frames: measured as the fastest.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";

/** Frames of a partition, and the delay of the output. */
export const CONVOLVER_LATENCY = 8192;
const B = CONVOLVER_LATENCY;
const N = 2 * B;
/** Bytes of a half spectrum: B bins, real parts, then imaginary ones. */
const SPECTRUM = B * 8;

/** Half spectra of both channels, one for each partition. */
class Spectra {
  readonly left: Buffer;
  readonly right: Buffer;

  constructor(count: number) {
    this.left = new Buffer(count * SPECTRUM);
    this.right = new Buffer(count * SPECTRUM);
  }

  /** Takes a transformed pair apart into place i. */
  split(re: number, im: number, i: number): void {
    const l = this.left.ptr + i * SPECTRUM;
    const r = this.right.ptr + i * SPECTRUM;
    kernels.splitPair(re, im, N, l, l + B * 4, r, r + B * 4);
  }

  release(): void {
    this.left.release();
    this.right.release();
  }
}

/** Convolves a stereo pair with a stereo impulse response: left with left, right with right. Both go through one complex transform. */
export class Convolver {
  readonly #fft = new Fft(N);
  readonly #count: number;
  readonly #response: Spectra;
  readonly #past: Spectra;
  readonly #sum = new Spectra(1);
  readonly #work = new Buffer(N * 8);
  /** The last block and the one that is filling, of each channel. */
  readonly #input = new Buffer(N * 8);
  readonly #output = new Buffer(B * 8);
  #newest = 0;
  #at: number;

  /** @param phase frames that have already passed of the first block, 0 to B - 1 */
  constructor(left: Float32Array, right: Float32Array, phase = 0) {
    this.#count = Math.max(1, Math.ceil(left.length / B));
    this.#response = new Spectra(this.#count);
    this.#past = new Spectra(this.#count);
    for (let p = 0; p < this.#count; p++) {
      const f32 = this.#work.f32.fill(0);
      f32.set(left.subarray(p * B, (p + 1) * B));
      f32.set(right.subarray(p * B, (p + 1) * B), N);
      // The inverse transform's scale is put in here, once for all.
      kernels.gain(this.#work.ptr, 2 * N, 1 / N);
      this.#fft.forward(this.#work.ptr, this.#work.ptr + N * 4);
      this.#response.split(this.#work.ptr, this.#work.ptr + N * 4, p);
    }
    this.#at = phase;
  }

  /** In place, any n; the output is B frames late. */
  process(l: number, r: number, n: number): void {
    const inL = this.#input.ptr + B * 4;
    const inR = inL + N * 4;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, B - this.#at);
      const at = this.#at * 4;
      kernels.copy(inL + at, l + done * 4, m);
      kernels.copy(inR + at, r + done * 4, m);
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
    const re = this.#work.ptr;
    const im = re + N * 4;
    this.#newest = (this.#newest + this.#count - 1) % this.#count;
    kernels.copy(re, this.#input.ptr, 2 * N);
    this.#fft.forward(re, im);
    this.#past.split(re, im, this.#newest);
    const l = this.#sum.left.ptr;
    const r = this.#sum.right.ptr;
    kernels.clear(l, 2 * B);
    kernels.clear(r, 2 * B);
    const { left, right } = this.#past;
    kernels.convolvePartitions(l, left.ptr, this.#response.left.ptr, B, this.#count, this.#newest);
    kernels.convolvePartitions(r, right.ptr, this.#response.right.ptr, B, this.#count, this.#newest);
    kernels.joinPair(re, im, N, l, l + B * 4, r, r + B * 4);
    this.#fft.forward(im, re);
    kernels.copy(this.#output.ptr, re + B * 4, B);
    kernels.copy(this.#output.ptr + B * 4, im + B * 4, B);
    kernels.copy(this.#input.ptr, this.#input.ptr + B * 4, B);
    kernels.copy(this.#input.ptr + N * 4, this.#input.ptr + (N + B) * 4, B);
  }

  release(): void {
    for (const b of [this.#fft, this.#response, this.#past, this.#sum, this.#work, this.#input, this.#output])
      b.release();
  }
}

// The discrete Fourier transform of sound through a Hann window, as measuring wants it.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";
import { hann, hannResponse } from "./windows";

export class HannTransform {
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #work: Buffer;

  /** @param size points, a power of two that `Fft` takes */
  constructor(readonly size: number) {
    this.#fft = new Fft(size);
    this.#window = new Buffer(size * 4);
    this.#window.f32.set(hann(size));
    this.#work = new Buffer(size * 8);
  }

  /** Transforms `size` samples (f32) at an address. Returns real parts, then imaginary parts; good until the next call. */
  of(samples: number): Float32Array {
    const { size } = this;
    const re = this.#work.ptr;
    kernels.multiply(re, samples, this.#window.ptr, size);
    kernels.clear(re + size * 4, size);
    this.#fft.forward(re, re + size * 4);
    return this.#work.f32;
  }

  /** Amplitude of a sine whose transform has that magnitude, `offset` bins beside it. */
  amplitude(magnitude: number, offset: number): number {
    return (magnitude * 4) / (this.size * hannResponse(offset));
  }

  release(): void {
    for (const b of [this.#fft, this.#window, this.#work]) b.release();
  }
}

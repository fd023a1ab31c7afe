// Sound cut into overlapping windows, and the power of each at each frequency.
import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

const FRAME_SECONDS = 0.0427;

/** Frames of a transform at a sample rate: about 43 ms, 2048 at 48 kHz. */
export function frameSize(sampleRate: number): number {
  let n = 256;
  while (n * 1.42 < FRAME_SECONDS * sampleRate) n *= 2;
  return n;
}

/** Hann windows that overlap by half. */
export class PowerFrames {
  readonly size: number;
  readonly hop: number;
  /** Sum of the squared window. */
  readonly energy: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #input: Buffer;
  readonly #work: Buffer;
  readonly #power: Buffer;
  #have = 0;

  constructor(sampleRate: number) {
    const n = frameSize(sampleRate);
    this.size = n;
    this.hop = n / 2;
    this.#fft = new Fft(n);
    this.#window = new Buffer(n * 4);
    this.#window.f32.set(hann(n));
    this.energy = this.#window.f32.reduce((sum, w) => sum + w * w, 0);
    this.#input = new Buffer(n * 8);
    this.#work = new Buffer(n * 8);
    this.#power = new Buffer((n / 2 + 4) * 4);
  }

  /**
   * Takes n frames of both sides; l, r: addresses.
   * @param visit given each window's power, of both sides together, in bins 0 … size / 2: valid during the call
   */
  push(l: number, r: number, n: number, visit: (power: Float32Array) => void): void {
    const { ptr } = this.#input;
    const [side, rest] = [this.size * 4, this.size - this.hop];
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.size - this.#have);
      kernels.copy(ptr + this.#have * 4, l + done * 4, m);
      kernels.copy(ptr + side + this.#have * 4, r + done * 4, m);
      this.#have += m;
      done += m;
      if (this.#have < this.size) continue;
      visit(this.#transform());
      kernels.copy(ptr, ptr + this.hop * 4, rest);
      kernels.copy(ptr + side, ptr + side + this.hop * 4, rest);
      this.#have = rest;
    }
  }

  #transform(): Float32Array {
    const re = this.#work.ptr;
    const im = re + this.size * 4;
    kernels.multiply(re, this.#input.ptr, this.#window.ptr, this.size);
    kernels.multiply(im, this.#input.ptr + this.size * 4, this.#window.ptr, this.size);
    this.#fft.forward(re, im);
    kernels.pairPower(re, im, this.#power.ptr, this.size);
    return this.#power.f32.subarray(0, this.size / 2 + 1);
  }

  release(): void {
    for (const b of [this.#fft, this.#window, this.#input, this.#work, this.#power]) b.release();
  }
}

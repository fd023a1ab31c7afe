// Uniformly partitioned convolution: T. G. Stockham, "High-speed convolution and correlation", AFIPS (1966); partitions with a frequency-domain
// delay line: W. G. Gardner, JAES 43 (1995), section 2. Partitions of 16384 frames: measured as the fastest.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { APART, Fft } from "./fft";

/** Frames of a partition, and the delay of the output. */
export const CONVOLVER_LATENCY = 16384;
const B = CONVOLVER_LATENCY;
/** From the real to the imaginary part of a transform, bytes. */
const IM = B * 4 + APART;
/** Bytes of a spectrum; their order: kernels/assembly/partitions.ts. */
const SPECTRUM = B * 8;

let turns: Buffer | undefined;

/** cos and sin of πk/2B; made once a thread. */
function turnTable(): number {
  if (!turns) {
    turns = new Buffer(B * 8);
    for (let k = 0; k < B; k++) {
      turns.f32[k] = kernels.cos((Math.PI * k) / (2 * B));
      turns.f32[B + k] = kernels.sin((Math.PI * k) / (2 * B));
    }
  }
  return turns.ptr;
}

/** Convolves one channel block by block. */
class Channel {
  readonly #response: Buffer;
  readonly #past: Buffer;
  readonly #count: number;
  /** The block that is filling, the one that is going out, and what the last one left for it. */
  readonly input = new Buffer(B * 4);
  readonly output = new Buffer(B * 4);
  readonly #rest = new Buffer(B * 4);
  #newest = 0;

  constructor(
    response: Float32Array,
    readonly fft: Fft,
    readonly work: number
  ) {
    this.#count = Math.max(1, Math.ceil(response.length / B));
    this.#response = new Buffer(this.#count * SPECTRUM);
    this.#past = new Buffer(this.#count * SPECTRUM);
    for (let p = 0; p < this.#count; p++) {
      this.input.f32.fill(0);
      this.input.f32.set(response.subarray(p * B, (p + 1) * B));
      // The inverse transform's scale is put in here, once for all.
      kernels.gain(this.input.ptr, B, 1 / B);
      this.#transform(this.#response, p);
    }
    this.input.f32.fill(0);
  }

  #transform(to: Buffer, place: number): void {
    const [re, im] = [this.work, this.work + IM];
    const [fromRe, fromIm] = this.fft.input(re, im);
    kernels.turn(this.input.ptr, fromRe, fromIm, B, turnTable());
    this.fft.run(re, im);
    kernels.placeSpectrum(re, im, B, to.ptr, place, this.#count);
  }

  /** From `input` to `output`. */
  block(): void {
    const [re, im] = [this.work, this.work + IM];
    this.#newest = (this.#newest + this.#count - 1) % this.#count;
    this.#transform(this.#past, this.#newest);
    // Real and imaginary parts exchanged: the inverse transform.
    const [sumIm, sumRe] = this.fft.input(im, re);
    kernels.convolvePartitions(
      sumRe,
      sumIm,
      this.#past.ptr,
      this.#response.ptr,
      B,
      this.#count,
      this.#newest
    );
    this.fft.run(im, re);
    kernels.turnBack(re, im, this.output.ptr, this.#rest.ptr, B, turnTable());
  }

  release(): void {
    for (const b of [this.#response, this.#past, this.input, this.output, this.#rest]) b.release();
  }
}

/** Convolves a stereo pair with a stereo impulse response: left with left, right with right. */
export class Convolver {
  readonly #fft = new Fft(B);
  readonly #work = new Buffer(B * 4 + IM);
  readonly #left: Channel;
  readonly #right: Channel;
  #at: number;

  /** @param phase frames that have already passed of the first block, 0 to B - 1 */
  constructor(left: Float32Array, right: Float32Array, phase = 0) {
    this.#left = new Channel(left, this.#fft, this.#work.ptr);
    this.#right = new Channel(right, this.#fft, this.#work.ptr);
    this.#at = phase;
  }

  /** In place, any n; the output is B frames late. */
  process(l: number, r: number, n: number): void {
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, B - this.#at);
      exchange(this.#left, l + done * 4, this.#at, m);
      exchange(this.#right, r + done * 4, this.#at, m);
      this.#at += m;
      done += m;
      if (this.#at === B) {
        this.#left.block();
        this.#right.block();
        this.#at = 0;
      }
    }
  }

  release(): void {
    for (const b of [this.#fft, this.#work, this.#left, this.#right]) b.release();
  }
}

/** Takes m frames of x in at frame `at` of the block, and gives those of the last block out in their place. */
function exchange(channel: Channel, x: number, at: number, m: number): void {
  kernels.copy(channel.input.ptr + at * 4, x, m);
  kernels.copy(x, channel.output.ptr + at * 4, m);
}

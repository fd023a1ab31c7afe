// Restores clipped samples of a frame: those values, at or beyond what is left of them, by which its spectrum has the fewest strong parts.
// Consistent sparse declipping in the analysis form: S. Kitić, N. Bertin, R. Gribonval, "Sparsity and cosparsity for audio declipping" (LVA/ICA 2015);
// P. Záviška et al., "A proper version of synthesis-based sparse audio declipper" (ICASSP 2019). More parts a round than there make it
// faster and, on low voices, better.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";

/** The spectrum has so many times more points than the frame. */
const REDUNDANCY = 2;
/** By so many strong parts more are allowed in every round. */
const STEP = 8;
const ROUNDS = 250;
/** Ends when sound and strong parts differ by no more than this share of the sound. */
const NEAR = 0.01;
/** Above this frequency a part counts for more than its power, by its frequency to twice this power: found by trial on voices. */
const LEVEL_HZ = 500;
const TILT = 0.35;
/** Work space of the kernel that finds the strongest. */
const CLASSES = 4096;

/** One frame of the pair that is restored at once: one goes as real, the other as imaginary part of the transform. */
class Lane {
  readonly x: Buffer;
  readonly low: Buffer;
  readonly high: Buffer;
  /** Spectra: as it is, its strong parts, what is carried over from round to round. */
  readonly spectrum: Buffer;
  readonly strong: Buffer;
  readonly carried: Buffer;
  done = true;
  #near = 0;

  constructor(
    private readonly size: number,
    private readonly rows: number
  ) {
    [this.x, this.low, this.high] = Array.from({ length: 3 }, () => new Buffer(size * 4));
    [this.spectrum, this.strong, this.carried] = Array.from({ length: 3 }, () => new Buffer(rows * 8));
  }

  fill({ given, bound }: ClippedFrame): void {
    const [x, low, high] = [this.x.f32, this.low.f32, this.high.f32];
    this.done = true;
    let energy = 0;
    for (let i = 0; i < this.size; i++) {
      const v = given[i];
      x[i] = v;
      low[i] = bound[i] < 0 ? -Infinity : v;
      high[i] = bound[i] > 0 ? Infinity : v;
      energy += v * v;
      if (bound[i] !== 0) this.done = false;
    }
    if (energy === 0) this.done = true;
    this.#near = NEAR * NEAR * energy;
    this.strong.f32.fill(0);
    this.carried.f32.fill(0);
  }

  keepStrongest(k: number, weights: number, power: number, classes: number): void {
    kernels.keepStrongest(
      this.spectrum.ptr,
      this.carried.ptr,
      this.strong.ptr,
      weights,
      power,
      classes,
      this.rows,
      k
    );
  }

  /** Carries over what the strong parts leave out; done when that is next to nothing. */
  carryOver(): void {
    const apart = kernels.carryOver(this.spectrum.ptr, this.strong.ptr, this.carried.ptr, this.rows);
    this.done = apart <= this.#near;
  }

  release(): void {
    for (const b of [this.x, this.low, this.high, this.spectrum, this.strong, this.carried]) b.release();
  }
}

/** A windowed frame of sound. */
export interface ClippedFrame {
  readonly given: Float32Array;
  /** For each sample 1: at least as high as it is; -1: at most; 0: as it is. */
  readonly bound: Int8Array;
}

/** Restores pairs of frames. Work space is allocated once. */
export class SparseDeclipper {
  readonly #n: number;
  readonly #rows: number;
  readonly #fft: Fft;
  readonly #pair: Buffer;
  readonly #weights: Buffer;
  readonly #power: Buffer;
  readonly #classes = new Buffer(CLASSES * 4);
  readonly #lanes: readonly [Lane, Lane];

  /** @param size frames, a power of two from 64 on */
  constructor(
    private readonly size: number,
    sampleRate: number
  ) {
    this.#n = size * REDUNDANCY;
    this.#rows = this.#n / 2 + 4;
    this.#fft = new Fft(this.#n);
    this.#pair = new Buffer(this.#n * 8);
    this.#weights = new Buffer(this.#rows * 4);
    const hertz = sampleRate / this.#n;
    this.#weights.f32.set(
      Float32Array.from({ length: this.#rows }, (_, k) => (1 + ((k * hertz) / LEVEL_HZ) ** 2) ** TILT)
    );
    this.#power = new Buffer(this.#rows * 4);
    this.#lanes = [new Lane(size, this.#rows), new Lane(size, this.#rows)];
  }

  /** Restores two frames; the results are valid until the next call. */
  restore(first: ClippedFrame, second: ClippedFrame): readonly [Float32Array, Float32Array] {
    const [a, b] = this.#lanes;
    a.fill(first);
    b.fill(second);
    this.#analyse();
    for (let round = 0; round < ROUNDS && !(a.done && b.done); round++) {
      for (const lane of this.#lanes)
        if (!lane.done)
          lane.keepStrongest(1 + STEP * round, this.#weights.ptr, this.#power.ptr, this.#classes.ptr);
      this.#synthesize();
      this.#analyse();
      for (const lane of this.#lanes) if (!lane.done) lane.carryOver();
    }
    return [a.x.f32.subarray(0, this.size), b.x.f32.subarray(0, this.size)];
  }

  /** Spectra of both frames from one transform, divided by √n. */
  #analyse(): void {
    const [n, [a, b]] = [this.#n, this.#lanes];
    const [re, im] = [this.#pair.ptr, this.#pair.ptr + n * 4];
    const [toRe, toIm] = this.#fft.input(re, im);
    kernels.copy(toRe, a.x.ptr, this.size);
    kernels.copy(toIm, b.x.ptr, this.size);
    if (n > this.size) for (const to of [toRe, toIm]) kernels.clear(to + this.size * 4, n - this.size);
    this.#fft.run(re, im);
    kernels.separate(re, im, a.spectrum.ptr, b.spectrum.ptr, n, this.#rows, 0.5 / Math.sqrt(n));
  }

  /** The strong parts back to sound, less what was carried over; each sample held where it may be. */
  #synthesize(): void {
    const [n, [a, b]] = [this.#n, this.#lanes];
    const [re, im] = [this.#pair.ptr, this.#pair.ptr + n * 4];
    const [toRe, toIm] = this.#fft.input(re, im);
    kernels.joinDifferences(
      a.strong.ptr,
      a.carried.ptr,
      b.strong.ptr,
      b.carried.ptr,
      toRe,
      toIm,
      n,
      this.#rows
    );
    this.#fft.run(re, im);
    const scale = 1 / Math.sqrt(n);
    // Real and imaginary parts are exchanged.
    if (!a.done) kernels.hold(a.x.ptr, im, a.low.ptr, a.high.ptr, this.size, scale);
    if (!b.done) kernels.hold(b.x.ptr, re, b.low.ptr, b.high.ptr, this.size, scale);
  }

  release(): void {
    for (const b of [this.#fft, this.#pair, this.#weights, this.#power, this.#classes, ...this.#lanes])
      b.release();
  }
}

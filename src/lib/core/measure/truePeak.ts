import { steadyPeakTaps } from "../audio/finePeakFilter";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { gainToDb } from "../units/decibels";

/** True peak alone, of two channels: that of `Meter`, at a part of its cost. */
export class TruePeak {
  readonly #history = new Buffer(2 * 144);
  readonly #work = new Buffer(72 * 4);
  #peak = 0;
  #sample = 0;

  /** Takes the next n frames. l, r: addresses of f32 blocks in the kernels' memory; they are not changed. */
  push(l: number, r: number, n: number): void {
    const taps = steadyPeakTaps();
    const [left, right] = [this.#history.ptr, this.#history.ptr + 144];
    this.#peak = kernels.steadyPeak(l, n, taps, left, this.#work.ptr, this.#peak);
    this.#peak = kernels.steadyPeak(r, n, taps, right, this.#work.ptr, this.#peak);
    this.#sample = Math.max(this.#sample, kernels.peak(l, n), kernels.peak(r, n));
  }

  /** In dBTP; -Infinity for silence. */
  get dbtp(): number {
    return gainToDb(Math.max(this.#peak, this.#sample));
  }

  release(): void {
    this.#history.release();
    this.#work.release();
  }
}

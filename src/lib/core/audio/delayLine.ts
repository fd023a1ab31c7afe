import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

/** Delays a stereo pair by a fixed number of frames, 0 or more. */
export class DelayLine {
  readonly #line: Buffer;
  readonly #index = new Buffer(4);

  constructor(readonly frames: number) {
    this.#line = new Buffer(Math.max(1, frames) * 8);
  }

  /** In place; any n. */
  process(l: number, r: number, n: number): void {
    if (this.frames > 0) kernels.delayPair(l, r, n, this.#line.ptr, this.frames, this.#index.ptr);
  }

  release(): void {
    this.#line.release();
    this.#index.release();
  }
}

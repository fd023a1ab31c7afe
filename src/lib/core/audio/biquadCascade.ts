import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { BLOCK } from "./block";
import type { Section } from "./biquadDesign";

/** A stereo cascade of second-order sections with its state. */
export class BiquadCascade {
  readonly #coefs: Buffer;
  readonly #state: Buffer;
  readonly #scratch: Buffer;
  readonly #count: number;
  #phase = 0;

  constructor(sections: readonly Section[]) {
    this.#count = sections.length;
    this.#coefs = new Buffer(Math.max(1, sections.length) * 40);
    this.#state = new Buffer(Math.max(1, sections.length) * 64);
    this.#scratch = new Buffer(BLOCK * 16);
    sections.forEach((section, i) => this.#coefs.f64.set(section, i * 5));
  }

  /** Filters n ≤ BLOCK frames in place. l, r: addresses of f32 blocks. */
  process(l: number, r: number, n: number): void {
    if (this.#count === 0) return;
    for (let done = 0; done < n;) {
      // Tiny states are flushed at fixed places of the stream, so that block sizes make no difference.
      const m = Math.min(n - done, BLOCK - this.#phase);
      const at = done * 4;
      kernels.biquads(l + at, r + at, m, this.#coefs.ptr, this.#state.ptr, this.#count, this.#scratch.ptr);
      done += m;
      this.#phase += m;
      if (this.#phase === BLOCK) {
        kernels.flushStates(this.#state.ptr, this.#count);
        this.#phase = 0;
      }
    }
  }

  release(): void {
    this.#coefs.release();
    this.#state.release();
    this.#scratch.release();
  }
}

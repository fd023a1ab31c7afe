// A stretch of sound with what is far louder than the rest of it turned down, so that a strong click does not make a model its own.
import { Buffer } from "../kernels/memory";

/** Frames of a block, whose level is one number. */
const BLOCK = 32;
/** Share of the blocks that are no louder than usual, and how much louder than those a block may be. */
const USUAL = 0.75;
const LOUD = 2;
/** A level that is usual even in silence: -100 dBFS. */
const QUIET = 1e-5;

export class LevelEvener {
  readonly #out: Buffer;
  readonly #levels: Float64Array;
  readonly #gains: Float64Array;

  /**
   * @param length frames of the stretch
   * @param pad zeros that lie before the result
   */
  constructor(
    length: number,
    private readonly pad: number
  ) {
    this.#out = new Buffer((length + pad) * 8);
    this.#levels = new Float64Array(Math.floor(length / BLOCK));
    this.#gains = new Float64Array(this.#levels.length);
  }

  /** The least gain of a block and its two neighbours. */
  #gain(block: number): number {
    const last = this.#gains.length - 1;
    const at = Math.min(last, Math.max(0, block));
    return Math.min(this.#gains[Math.max(0, at - 1)], this.#gains[at], this.#gains[Math.min(last, at + 1)]);
  }

  /** Address of the evened sound; x is left as it is. */
  even(x: Float64Array): number {
    const levels = this.#levels;
    const gains = this.#gains;
    for (let b = 0; b < levels.length; b++) {
      let sum = 0;
      for (let i = b * BLOCK; i < (b + 1) * BLOCK; i++) sum += x[i] * x[i];
      levels[b] = gains[b] = Math.sqrt(sum / BLOCK);
    }
    levels.sort();
    const most = LOUD * Math.max(QUIET, levels[Math.floor(levels.length * USUAL)]);
    for (let b = 0; b < gains.length; b++) gains[b] = gains[b] > most ? most / gains[b] : 1;
    const y = this.#out.f64;
    // From the middle of a block to that of the next the gain goes straight.
    for (let i = 0, b = -1; i < x.length; b++) {
      const from = this.#gain(b);
      const slope = (this.#gain(b + 1) - from) / BLOCK;
      const middle = b * BLOCK + BLOCK / 2;
      for (; i < Math.min(x.length, middle + BLOCK); i++)
        y[this.pad + i] = x[i] * (from + slope * (i - middle));
    }
    return this.#out.ptr + this.pad * 8;
  }

  release(): void {
    this.#out.release();
  }
}

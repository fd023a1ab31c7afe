import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

const tables = new Map<number, Buffer>();

/** Twiddles of a length, made once a thread: see kernels/assembly/fft.ts. */
function tableOf(n: number): Buffer {
  let table = tables.get(n);
  if (!table) {
    const m = n / 4;
    table = new Buffer(6 * m * 4);
    for (let row = 0; row < 3; row++)
      for (let p = 0; p < m; p++) {
        const angle = (2 * Math.PI * (row + 1) * p) / n;
        table.f32[2 * row * m + p] = kernels.cos(angle);
        table.f32[(2 * row + 1) * m + p] = -kernels.sin(angle);
      }
    tables.set(n, table);
  }
  return table;
}

/** Bytes between real and imaginary parts beyond their length: rows that lie a multiple of 4 KB apart share cache lines. */
export const APART = 256;

/** A complex transform of planar f32 in the kernels' memory. A stereo pair goes as real and imaginary part. */
export class Fft {
  readonly #scratch: Buffer;
  readonly #table: number;
  /** Whether the kernel does an odd number of stages, so that its result lies elsewhere than its input. */
  readonly #odd: boolean;

  /** @param size a power of two, 64 to 65536 */
  constructor(readonly size: number) {
    if (size < 64 || size > 65536 || (size & (size - 1)) !== 0)
      throw new RangeError(`A transform of ${size} points cannot be made.`);
    this.#scratch = new Buffer(size * 8 + APART);
    this.#table = tableOf(size).ptr;
    this.#odd = Math.floor(Math.log2(size) / 2) % 2 === 1;
  }

  /** Addresses at which `run` wants its input, if its output shall be at re and im. */
  input(re: number, im: number): readonly [re: number, im: number] {
    return this.#odd ? [this.#scratch.ptr, this.#scratch.ptr + this.size * 4 + APART] : [re, im];
  }

  /** X[k] = Σ x[n] e^(-2πi k n / size) from the addresses that `input` names to re and im. Spoils the input. */
  run(re: number, im: number): void {
    const other = this.#scratch.ptr;
    const otherIm = other + this.size * 4 + APART;
    if (this.#odd) kernels.fft(other, otherIm, re, im, this.size, this.#table);
    else kernels.fft(re, im, other, otherIm, this.size, this.#table);
  }

  /** `run` in place. re, im: addresses. Exchanged on the way in and out, and divided by `size`, it is the inverse transform. */
  forward(re: number, im: number): void {
    if (this.#odd) {
      const [toRe, toIm] = this.input(re, im);
      kernels.copy(toRe, re, this.size);
      kernels.copy(toIm, im, this.size);
    }
    this.run(re, im);
  }

  release(): void {
    this.#scratch.release();
  }
}

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

/** A complex transform of planar f32 in the kernels' memory. A stereo pair goes as real and imaginary part. */
export class Fft {
  readonly #scratch: Buffer;
  readonly #table: number;

  /** @param size a power of two, 64 to 65536 */
  constructor(readonly size: number) {
    if (size < 64 || size > 65536 || (size & (size - 1)) !== 0)
      throw new RangeError(`A transform of ${size} points cannot be made.`);
    this.#scratch = new Buffer(size * 8);
    this.#table = tableOf(size).ptr;
  }

  /** In place: X[k] = Σ x[n] e^(-2πi k n / size). re, im: addresses. */
  forward(re: number, im: number): void {
    kernels.fft(re, im, this.#scratch.ptr, this.#scratch.ptr + this.size * 4, this.size, this.#table);
  }

  /** In place, scaled by 1 / size: undoes `forward`. */
  inverse(re: number, im: number): void {
    this.forward(im, re);
    kernels.gain(re, this.size, 1 / this.size);
    kernels.gain(im, this.size, 1 / this.size);
  }

  release(): void {
    this.#scratch.release();
  }
}

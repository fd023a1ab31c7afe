import { kernels } from "./instance";

const PAGE = 65536;
// Blocks that lie a multiple of 4 KB apart share cache lines; an odd number of lines between them avoids that.
const STAGGER = 192;
// Pages taken beyond what is missing, so that memory grows in few steps.
const SPARE_PAGES = 64;

let top = kernels.heapBase();
const free = new Map<number, number[]>();

function sizeClass(bytes: number): number {
  return (Math.ceil(Math.max(1, bytes) / 64) | 1) * 64;
}

/** Reserves zeroed memory of the kernels' instance, 16-byte aligned. Returns its address. */
function reserve(bytes: number): number {
  const size = sizeClass(bytes);
  const pool = free.get(size);
  const reused = pool?.pop();
  const at = reused ?? Math.ceil((top + STAGGER) / 64) * 64;
  if (reused === undefined) {
    const missing = at + size - kernels.memory.buffer.byteLength;
    // It throws when there is no more: then nothing has been taken.
    if (missing > 0) kernels.memory.grow(Math.ceil(missing / PAGE) + SPARE_PAGES);
    top = at + size;
  }
  new Uint8Array(kernels.memory.buffer, at, size).fill(0);
  return at;
}

/** A piece of the kernels' memory. `ptr` is its address for kernels; the views are for TypeScript. */
export class Buffer {
  readonly ptr: number;
  readonly bytes: number;
  #f32: Float32Array | undefined;
  #f64: Float64Array | undefined;
  #u8: Uint8Array | undefined;
  #i32: Int32Array | undefined;
  #released = false;

  /** @param bytes size; the memory is zeroed. Call `release` when done: nothing else frees it. */
  constructor(bytes: number) {
    this.bytes = bytes;
    this.ptr = reserve(bytes);
  }

  /** The buffer as f32. Take it anew after anything that may allocate: growing memory detaches views. */
  get f32(): Float32Array {
    if (this.#f32?.buffer !== kernels.memory.buffer)
      this.#f32 = new Float32Array(kernels.memory.buffer, this.ptr, this.bytes >> 2);
    return this.#f32;
  }

  get f64(): Float64Array {
    if (this.#f64?.buffer !== kernels.memory.buffer)
      this.#f64 = new Float64Array(kernels.memory.buffer, this.ptr, this.bytes >> 3);
    return this.#f64;
  }

  get i32(): Int32Array {
    if (this.#i32?.buffer !== kernels.memory.buffer)
      this.#i32 = new Int32Array(kernels.memory.buffer, this.ptr, this.bytes >> 2);
    return this.#i32;
  }

  get u8(): Uint8Array {
    if (this.#u8?.buffer !== kernels.memory.buffer)
      this.#u8 = new Uint8Array(kernels.memory.buffer, this.ptr, this.bytes);
    return this.#u8;
  }

  /** Gives the memory back. The buffer must not be used afterwards. */
  release(): void {
    if (this.#released) return;
    this.#released = true;
    const size = sizeClass(this.bytes);
    const pool = free.get(size);
    if (pool) pool.push(this.ptr);
    else free.set(size, [this.ptr]);
  }
}

// The kernels' memory, in pieces that are reserved and given back.
//
//   heapBase                                              top
//   │▓▓▓▓ reserved ▓▓▓▓│ free │▓▓▓▓▓▓│   free   │▓▓▓▓▓▓▓▓▓▓│  never used yet …
//
// A piece that is given back joins its free neighbours; at the top it lowers the top. So memory that is used again and again, in
// pieces of any size, does not crumble. The smallest free piece that is large enough is taken, its rest stays free.
import { kernels } from "./instance";

const PAGE = 65536;
const LINE = 64;
// Pieces that lie a multiple of 4 KB apart share cache lines: each takes an odd number of lines, and a few more than it needs.
const SPARE_LINES = 3;
// Pages taken beyond what is missing, so that memory grows in few steps.
const SPARE_PAGES = 64;

let top = Math.ceil(kernels.heapBase() / LINE) * LINE;

interface Piece {
  readonly at: number;
  readonly size: number;
}

/** Free pieces by size, then address; and by where they begin and end. */
const bySize: Piece[] = [];
const byStart = new Map<number, Piece>();
const byEnd = new Map<number, Piece>();

function sizeOf(bytes: number): number {
  return ((Math.ceil(Math.max(1, bytes) / LINE) + SPARE_LINES) | 1) * LINE;
}

/** Place among the free pieces of the first that is not smaller than (size, at). */
function placeOf(size: number, at: number): number {
  let [low, high] = [0, bySize.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    const piece = bySize[middle];
    if (piece.size < size || (piece.size === size && piece.at < at)) low = middle + 1;
    else high = middle;
  }
  return low;
}

function takeOut(piece: Piece): void {
  bySize.splice(placeOf(piece.size, piece.at), 1);
  byStart.delete(piece.at);
  byEnd.delete(piece.at + piece.size);
}

function putIn(at: number, size: number): void {
  const piece = { at, size };
  bySize.splice(placeOf(size, at), 0, piece);
  byStart.set(at, piece);
  byEnd.set(at + size, piece);
}

/** Reserves zeroed memory of the kernels' instance, 64-byte aligned. Returns its address. */
function reserve(bytes: number): number {
  const size = sizeOf(bytes);
  const found: Piece | undefined = bySize[placeOf(size, 0)];
  const at = found?.at ?? top;
  if (found) {
    takeOut(found);
    if (found.size > size) putIn(at + size, found.size - size);
  } else {
    const missing = at + size - kernels.memory.buffer.byteLength;
    // It throws when there is no more: then nothing has been taken.
    if (missing > 0) kernels.memory.grow(Math.ceil(missing / PAGE) + SPARE_PAGES);
    top = at + size;
  }
  new Uint8Array(kernels.memory.buffer, at, size).fill(0);
  return at;
}

function giveBack(from: number, bytes: number): void {
  let at = from;
  let size = sizeOf(bytes);
  const before = byEnd.get(at);
  if (before) {
    takeOut(before);
    at = before.at;
    size += before.size;
  }
  const after = byStart.get(at + size);
  if (after) {
    takeOut(after);
    size += after.size;
  }
  if (at + size === top) top = at;
  else putIn(at, size);
}

/** Bytes from the beginning of the heap to the last that is reserved, and bytes that lie free in between. */
export function memoryInUse(): { readonly top: number; readonly free: number } {
  return { top: top - kernels.heapBase(), free: bySize.reduce((sum, piece) => sum + piece.size, 0) };
}

/** A piece of the kernels' memory. `ptr` is its address for kernels; the views are for TypeScript. */
export class Buffer {
  readonly ptr: number;
  readonly bytes: number;
  #f32: Float32Array | undefined;
  #f64: Float64Array | undefined;
  #u8: Uint8Array | undefined;
  #i16: Int16Array | undefined;
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

  get i16(): Int16Array {
    if (this.#i16?.buffer !== kernels.memory.buffer)
      this.#i16 = new Int16Array(kernels.memory.buffer, this.ptr, this.bytes >> 1);
    return this.#i16;
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
    giveBack(this.ptr, this.bytes);
  }
}

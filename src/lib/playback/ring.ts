// Finished frames on their way from the worker to the worklet: one writer, one reader, shared memory.
//
//   control: [written, read, state, starved, least, over]   frames counted from the start, wrapping at 2^31
//   audio:   capacity × (left, right)
//
// The writer moves only `written`, the reader only `read`. `state` says what the reader does, `starved` how many frames it found missing, `least`
// how few were left since the writer looked last; `over` is set when the writer has nothing more to come.

export const RING_FRAMES = 65536;

export const State = { stopped: 0, playing: 1, stopping: 2 } as const;

export interface RingMemory {
  readonly control: SharedArrayBuffer;
  readonly audio: SharedArrayBuffer;
}

export function ringMemory(): RingMemory {
  return { control: new SharedArrayBuffer(24), audio: new SharedArrayBuffer(RING_FRAMES * 8) };
}

const WRITTEN = 0;
const READ = 1;
const STATE = 2;
const STARVED = 3;
const LEAST = 4;
const OVER = 5;
const NONE = 0x7fffffff;

/** Both ends of a ring. */
export class Ring {
  readonly #control: Int32Array;
  readonly #audio: Float32Array;

  constructor(memory: RingMemory) {
    this.#control = new Int32Array(memory.control);
    this.#audio = new Float32Array(memory.audio);
  }

  get state(): number {
    return Atomics.load(this.#control, STATE);
  }

  set state(value: number) {
    Atomics.store(this.#control, STATE, value);
  }

  get written(): number {
    return Atomics.load(this.#control, WRITTEN);
  }

  get read(): number {
    return Atomics.load(this.#control, READ);
  }

  /** Frames that were missing when they were to be heard, since the ring was made. */
  get starved(): number {
    return Atomics.load(this.#control, STARVED);
  }

  /** Writer: whether nothing more comes. */
  set over(over: boolean) {
    Atomics.store(this.#control, OVER, over ? 1 : 0);
  }

  /** Writer: the fewest frames that were left since this was asked last; Infinity when nothing was read. */
  takeLeast(): number {
    const least = Atomics.exchange(this.#control, LEAST, NONE);
    return least === NONE ? Infinity : least;
  }

  /** Frames that wait to be read. */
  get filled(): number {
    return (this.written - this.read) | 0;
  }

  /** Writer: appends n frames. The caller keeps `filled + n` within the capacity. */
  write(left: Float32Array, right: Float32Array, n: number): void {
    const at = this.written;
    for (let i = 0; i < n; i++) {
      const slot = ((at + i) & (RING_FRAMES - 1)) * 2;
      this.#audio[slot] = left[i];
      this.#audio[slot + 1] = right[i];
    }
    Atomics.store(this.#control, WRITTEN, (at + n) | 0);
  }

  /** Reader: takes up to n frames; what is missing stays as it was, and is noted unless all is over. Returns the frames taken. */
  take(left: Float32Array, right: Float32Array, n: number): number {
    const at = this.read;
    const m = Math.min(n, this.filled);
    for (let i = 0; i < m; i++) {
      const slot = ((at + i) & (RING_FRAMES - 1)) * 2;
      left[i] = this.#audio[slot];
      right[i] = this.#audio[slot + 1];
    }
    Atomics.store(this.#control, READ, (at + m) | 0);
    if (Atomics.load(this.#control, OVER) === 0) {
      const left = this.filled;
      if (left < Atomics.load(this.#control, LEAST)) Atomics.store(this.#control, LEAST, left);
      if (m < n && this.state === State.playing) Atomics.add(this.#control, STARVED, n - m);
    }
    return m;
  }

  /** Reader: throws away what waits. */
  discard(): void {
    Atomics.store(this.#control, READ, this.written);
  }
}

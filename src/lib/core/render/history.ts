import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";

/**
 * The latest sound that came into a bus, by its position on the timeline. Chains read from it, each at its own place: a new chain can
 * be run in over what the bus has heard without hearing it again.
 *
 *   ───────┬─────────────────────────────┬───────►  position
 *        begin                          end
 *          └── at most `capacity` frames ┘  in a ring
 */
export class History {
  #ring: StereoBlock;
  #begin: number;
  #end: number;

  /** @param position of the first frame; @param capacity frames that are kept at least */
  constructor(position: number, capacity: number) {
    this.#ring = new StereoBlock(rounded(capacity));
    this.#begin = this.#end = position;
  }

  /** Position of the oldest frame. */
  get begin(): number {
    return this.#begin;
  }

  /** Position of the next frame that comes in. */
  get end(): number {
    return this.#end;
  }

  /** Makes room for so many frames at least. */
  hold(capacity: number): void {
    if (capacity <= this.#ring.frames) return;
    const [old, from] = [this.#ring, this.#begin];
    const larger = new StereoBlock(rounded(capacity));
    for (let at = from; at < this.#end;) {
      const [o, m] = this.#piece(old.frames, at, Math.min(BLOCK, this.#end - at));
      const [p, k] = this.#piece(larger.frames, at, m);
      kernels.copy(larger.left.ptr + p, old.left.ptr + o, k);
      kernels.copy(larger.right.ptr + p, old.right.ptr + o, k);
      at += k;
    }
    this.#ring = larger;
    old.release();
  }

  /** Byte offset of a position in a ring, and how many of n frames lie there in one piece. */
  #piece(frames: number, at: number, n: number): [offset: number, frames: number] {
    const index = ((at % frames) + frames) % frames;
    return [index * 4, Math.min(n, frames - index)];
  }

  /** Lets n more frames in: `add` is given cleared blocks to add them to. */
  append(n: number, add: (l: number, r: number, n: number) => void): void {
    for (let done = 0; done < n;) {
      const [o, m] = this.#piece(this.#ring.frames, this.#end, Math.min(BLOCK, n - done));
      const [l, r] = [this.#ring.left.ptr + o, this.#ring.right.ptr + o];
      kernels.clear(l, m);
      kernels.clear(r, m);
      add(l, r, m);
      this.#end += m;
      this.#begin = Math.max(this.#begin, this.#end - this.#ring.frames);
      done += m;
    }
  }

  /** Copies n frames from a position on to two f32 blocks. They must be there. */
  read(from: number, n: number, l: number, r: number): void {
    if (from < this.#begin || from + n > this.#end)
      throw new Error("A bus was asked for sound that it no longer has, or has not yet.");
    for (let done = 0; done < n;) {
      const [o, m] = this.#piece(this.#ring.frames, from + done, n - done);
      kernels.copy(l + done * 4, this.#ring.left.ptr + o, m);
      kernels.copy(r + done * 4, this.#ring.right.ptr + o, m);
      done += m;
    }
  }

  release(): void {
    this.#ring.release();
  }
}

function rounded(frames: number): number {
  return Math.ceil(frames / BLOCK) * BLOCK;
}

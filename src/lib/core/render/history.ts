import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import type { BusInput } from "./busInput";

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
    const old = this.#ring;
    const larger = new StereoBlock(rounded(capacity));
    for (let at = this.#begin; at < this.#end;) {
      const from = indexIn(old, at);
      const to = indexIn(larger, at);
      const n = Math.min(this.#end - at, old.frames - from, larger.frames - to);
      kernels.copy(larger.left.ptr + to * 4, old.left.ptr + from * 4, n);
      kernels.copy(larger.right.ptr + to * 4, old.right.ptr + from * 4, n);
      at += n;
    }
    this.#ring = larger;
    old.release();
  }

  /** Lets n more frames in: `flow` adds them to cleared blocks. */
  append(n: number, flow: Pick<BusInput, "add">): void {
    const ring = this.#ring;
    for (let done = 0; done < n;) {
      const index = indexIn(ring, this.#end);
      const m = Math.min(BLOCK, n - done, ring.frames - index);
      const l = ring.left.ptr + index * 4;
      const r = ring.right.ptr + index * 4;
      kernels.clear(l, m);
      kernels.clear(r, m);
      flow.add(l, r, m);
      this.#end += m;
      this.#begin = Math.max(this.#begin, this.#end - ring.frames);
      done += m;
    }
  }

  /** Copies n frames from a position on to two f32 blocks. They must be there. */
  read(from: number, n: number, l: number, r: number): void {
    if (from < this.#begin || from + n > this.#end)
      throw new Error("A bus was asked for sound that it no longer has, or has not yet.");
    const ring = this.#ring;
    for (let done = 0; done < n;) {
      const index = indexIn(ring, from + done);
      const m = Math.min(n - done, ring.frames - index);
      kernels.copy(l + done * 4, ring.left.ptr + index * 4, m);
      kernels.copy(r + done * 4, ring.right.ptr + index * 4, m);
      done += m;
    }
  }

  release(): void {
    this.#ring.release();
  }
}

/** Where a position lies in a ring. */
function indexIn({ frames }: StereoBlock, position: number): number {
  return ((position % frames) + frames) % frames;
}

function rounded(frames: number): number {
  return Math.ceil(frames / BLOCK) * BLOCK;
}

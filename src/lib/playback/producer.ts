import type { FrameRange } from "$lib/core/render/clipStream";
import { MixStream } from "$lib/core/render/mix";
import type { Source } from "$lib/core/render/source";
import type { Document } from "$lib/core/session/document";
import { programmeEnd } from "$lib/core/session/lookup";

/** A range of the timeline in frames, to < from never. */
export interface Loop {
  readonly from: number;
  readonly to: number;
}

/** The sequence of blocks that is played: the mix from a position on, around a loop if there is one, through changes of the document. */
export class Producer {
  #mix: MixStream;
  #doc: Document;
  #loop: Loop | null;

  constructor(
    doc: Document,
    private readonly source: Source,
    from: number,
    loop: Loop | null
  ) {
    this.#doc = doc;
    this.#loop = loop;
    this.#mix = new MixStream(doc, source, from);
  }

  /** Timeline position of the next frame. */
  get position(): number {
    return this.#mix.position;
  }

  /** Whether nothing more is to come: past the last clip, and not in a loop. */
  get ended(): boolean {
    return !this.#looping() && this.position >= programmeEnd(this.#doc);
  }

  /** Goes over to a changed document. */
  update(doc: Document): void {
    this.#doc = doc;
    this.#mix.update(doc);
  }

  setLoop(loop: Loop | null): void {
    this.#loop = loop;
  }

  // A loop counts when the playhead is before its end; starting behind it plays on.
  #looping(): boolean {
    return this.#loop !== null && this.position < this.#loop.to;
  }

  /** Frames of recordings that the next n frames may take. */
  needed(n: number): FrameRange[] {
    const ranges = this.#mix.needed(n);
    if (!this.#loop || !this.#looping() || this.position + n < this.#loop.to) return ranges;
    const again = new MixStream(this.#doc, this.source, this.#loop.from);
    ranges.push(...again.needed(n));
    again.release();
    return ranges;
  }

  /**
   * Writes up to n frames to two f32 blocks in the kernels' memory. A block ends at the loop's end: the next begins at its start.
   * @returns frames written
   */
  next(l: number, r: number, n: number): number {
    const looping = this.#looping();
    const m = looping && this.#loop ? Math.min(n, this.#loop.to - this.position) : n;
    this.#mix.read(l, r, m);
    if (looping && this.#loop && this.position >= this.#loop.to) {
      this.#mix.release();
      this.#mix = new MixStream(this.#doc, this.source, this.#loop.from);
    }
    return m;
  }

  release(): void {
    this.#mix.release();
  }
}

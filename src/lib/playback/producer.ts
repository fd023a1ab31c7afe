import type { FrameRange } from "$lib/core/audio/soundStream";
import type { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import type { TrackPeaks } from "$lib/core/render/trackPeaks";
import type { SoundPart } from "$lib/core/render/soundPart";
import type { Source } from "$lib/core/render/source";

/** A range of the timeline in frames, to < from never. */
export interface Loop {
  readonly from: number;
  readonly to: number;
}

/** The sequence of blocks that is played: the mix from a position on, around a loop if there is one, through changes of the plan. */
export class Producer {
  #mix: MixStream;
  #loop: Loop | null;
  /** Where it stops; null: at the end. */
  readonly #until: number | null;

  constructor(
    private readonly plan: Plan,
    private readonly source: Source,
    from: number,
    loop: Loop | null,
    until: number | null = null,
    private readonly peaks?: TrackPeaks
  ) {
    this.#loop = loop;
    this.#until = until !== null && until > from ? until : null;
    this.#mix = new MixStream(plan, source, from, peaks);
  }

  /** Timeline position of the next frame. */
  get position(): number {
    return this.#mix.position;
  }

  /** Whether nothing more is to come: past where it stops, or past the last clip and what rings of it, and not in a loop. */
  get ended(): boolean {
    if (this.#until !== null && this.position >= this.#until) return true;
    return !this.#looping() && this.position >= this.plan.end;
  }

  /** Goes over to what the plan says now. */
  update(): void {
    this.#mix.update();
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
    const { from } = this.#loop;
    return [...ranges, ...this.plan.needed(from, from + n)];
  }

  /** What begins to be read within the next n frames: it must have learnt what it has to by then. */
  parts(n: number): SoundPart[] {
    const parts = this.#mix.parts(n);
    if (!this.#loop || !this.#looping() || this.position + n < this.#loop.to) return parts;
    const { from } = this.#loop;
    return [...parts, ...this.plan.parts(from, from + n)];
  }

  /**
   * Writes up to n frames to two f32 blocks in the kernels' memory. A block ends at the loop's end: the next begins at its start.
   * @returns frames written
   */
  next(l: number, r: number, n: number): number {
    const looping = this.#looping();
    const end = Math.min(
      looping && this.#loop ? this.#loop.to : Infinity,
      this.#until === null ? Infinity : Math.max(this.#until, this.position + 1)
    );
    const m = Math.min(n, end - this.position);
    this.#mix.read(l, r, m);
    if (looping && this.#loop && this.position >= this.#loop.to) {
      this.#mix.release();
      this.#mix = new MixStream(this.plan, this.source, this.#loop.from, this.peaks);
    }
    return m;
  }

  release(): void {
    this.#mix.release();
  }
}

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
  /** The mix from the loop's start on, made ready while its end comes near. */
  #next: MixStream | undefined;
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
    this.#mix = this.#from(from);
  }

  #from(position: number): MixStream {
    return new MixStream(this.plan, this.source, position, this.peaks, true);
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
    this.#forgetNext();
  }

  setLoop(loop: Loop | null): void {
    this.#loop = loop;
    this.#forgetNext();
  }

  #forgetNext(): void {
    this.#next?.release();
    this.#next = undefined;
  }

  /** Whether all that was changed sounds: until then the next change waits. */
  get settled(): boolean {
    return this.#mix.settled;
  }

  /**
   * Does some of what is to be heard later: runs in what was changed, clips that begin within `ahead` frames, and the loop's start.
   * @param frames about as many are made of each
   * @returns whether nothing is left to do
   */
  advance(frames: number, ahead: number): boolean {
    if (!this.#mix.advance(frames, ahead)) return false;
    if (!this.#loop || !this.#looping() || this.position + ahead < this.#loop.to) return true;
    this.#next ??= this.#from(this.#loop.from);
    return this.#next.advance(frames, 0);
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
      this.#mix = this.#next ?? this.#from(this.#loop.from);
      this.#next = undefined;
    }
    return m;
  }

  release(): void {
    this.#mix.release();
    this.#forgetNext();
  }
}

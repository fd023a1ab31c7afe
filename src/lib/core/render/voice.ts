// One clip in a mix, with gains that move.
import type { StereoBlock } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { alike } from "../session/equal";
import { chainStretch } from "../session/heard";
import type { ResolvedClip } from "../session/lookup";
import { catchUp } from "./catchUp";
import { ClipStream } from "./clipStream";
import type { Gains } from "./gains";
import { clipNeeded } from "./partStream";
import { soundingEnd } from "./ringOut";
import type { Source } from "./source";

/** Whether two states of a clip sound alike. */
export function soundAlike(a: ResolvedClip, b: ResolvedClip): boolean {
  if (a === b) return true;
  return (
    a.start === b.start &&
    a.recordingId === b.recordingId &&
    a.recordingFrames === b.recordingFrames &&
    a.offset === b.offset &&
    a.length === b.length &&
    a.gainDb === b.gainDb &&
    alike(a.line ?? null, b.line ?? null) &&
    alike(a.fadeIn, b.fadeIn) &&
    alike(a.fadeOut, b.fadeOut) &&
    alike(a.steps, b.steps) &&
    alike(a.recordingSteps, b.recordingSteps) &&
    alike(a.render, b.render) &&
    alike(a.ringOut ?? null, b.ringOut ?? null) &&
    alike(chainStretch(a), chainStretch(b))
  );
}

export class Voice {
  readonly start: number;
  readonly end: number;
  #stream: ClipStream | undefined;
  leaving = false;
  /** The one whose place it takes once it has come up with it; both undefined: it sounds, or has yet to begin. */
  before: Voice | undefined;
  /** Position up to which it is made, while it still has to come up with what sounds. */
  at: number | undefined;
  /** Position at which it began to wait. */
  since = 0;
  /** Position at which it has come up with what sounds. */
  here: number | undefined;

  constructor(
    readonly clip: ResolvedClip,
    readonly gains: Gains,
    private readonly source: Source,
    private readonly sampleRate: number
  ) {
    this.start = clip.start;
    this.end = soundingEnd(clip, sampleRate);
  }

  /** Whether it has been read from. */
  get open(): boolean {
    return this.#stream !== undefined;
  }

  /** Its sound, from a position on when it is not being read yet. */
  stream(position: number): ClipStream {
    return (this.#stream ??= new ClipStream(this.clip, this.source, this.sampleRate, position - this.start));
  }

  /** Runs it in, up to `frames` of that, then brings it up to a position. Returns whether it is there. */
  bring(position: number, frames: number, scratch: StereoBlock): boolean {
    this.at ??= position;
    const to = Math.min(position, this.end);
    const next = catchUp(this.stream(this.at), this.at, to, frames, scratch);
    if (next === undefined) return false;
    this.at = next;
    if (next < to) return false;
    this.here = next;
    return true;
  }

  /** Frames of its recording that reading it from `from` to `to` may take. */
  needed(from: number, to: number): readonly FrameRange[] {
    if (this.#stream) return this.#stream.needed(to - (this.at ?? from));
    return [clipNeeded(this.clip, this.sampleRate, from - this.start, to - this.start)];
  }

  release(): void {
    this.#stream?.release();
    this.#stream = undefined;
  }
}

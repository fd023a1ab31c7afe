import { BLOCK, StereoBlock } from "../audio/block";
import { fadeBlock } from "../audio/fadeCurve";
import { Chain, chainTiming, type ChainTiming } from "../effects/chain";
import { kernels } from "../kernels/instance";
import { renderedSteps } from "../session/clipState";
import type { ResolvedClip } from "../session/lookup";
import { dbToGain } from "../units/decibels";
import { learntOf, type ClipWindow } from "./prePass";
import type { Source } from "./source";

// A start in the middle of a clip runs the chain in over the time in which its past dies away, but no longer than this.
const MAX_RUN_IN_SECONDS = 3;

/** Frames of a recording, [from, to). */
export interface FrameRange {
  readonly recordingId: string;
  readonly from: number;
  readonly to: number;
}

/** What of a clip is audible, and from which recording: the render when it matches, else the recording itself. */
export function windowOf(clip: ResolvedClip): ClipWindow {
  const done = renderedSteps(clip);
  const { length } = clip;
  if (clip.render && done === clip.render.steps.length && done > 0)
    return {
      recordingId: clip.render.recordingId,
      offset: clip.offset - clip.render.origin,
      length,
      steps: clip.steps.slice(done)
    };
  return { recordingId: clip.recordingId, offset: clip.offset, length, steps: clip.steps };
}

function runIn(timing: ChainTiming, sampleRate: number): number {
  return Math.min(timing.settle, Math.round(MAX_RUN_IN_SECONDS * sampleRate));
}

export interface ClipStreamOptions {
  /** Whether gain and fades are applied; true unless said. */
  readonly shaped?: boolean;
  /** Frames of the recording that the chain hears before the clip's start and after its end, instead of silence. */
  readonly before?: number;
  readonly after?: number;
}

/** The sound of one clip, from any position on: window → chain → gain → fades. Before its start and after its end the chain hears silence. */
export class ClipStream {
  readonly #block = new StereoBlock(BLOCK);
  readonly #chain: Chain;
  readonly #window: ClipWindow;
  readonly #gain: number;
  readonly #begin: number;
  readonly #end: number;
  readonly #shaped: boolean;
  #input: number;
  #have = 0;
  #at = 0;
  #discard: number;
  #position: number;

  /** @param position frames after the clip's start from which on it is read; negative within `before` */
  constructor(
    private readonly clip: ResolvedClip,
    private readonly source: Source,
    sampleRate: number,
    position = 0,
    { shaped = true, before = 0, after = 0 }: ClipStreamOptions = {}
  ) {
    this.#window = windowOf(clip);
    this.#begin = -before;
    this.#end = clip.length + after;
    this.#shaped = shaped;
    const { steps } = this.#window;
    const timing = chainTiming(steps, sampleRate);
    this.#input = Math.max(this.#begin, position - runIn(timing, sampleRate));
    this.#chain = new Chain(steps, sampleRate, {
      frames: clip.length,
      position: this.#input,
      learnt: learntOf(this.#window, source, sampleRate),
      sound: (id) => source.sound?.(id)
    });
    this.#discard = position - this.#input + timing.latency;
    this.#gain = dbToGain(clip.gainDb);
    this.#position = position;
  }

  #fill(): void {
    const { left, right } = this.#block;
    const inside = Math.max(0, Math.min(BLOCK, this.#end - this.#input));
    if (inside > 0) {
      const { recordingId, offset } = this.#window;
      this.source.read(recordingId, offset + this.#input, inside, left.ptr, right.ptr);
    }
    if (inside < BLOCK) {
      kernels.clear(left.ptr + inside * 4, BLOCK - inside);
      kernels.clear(right.ptr + inside * 4, BLOCK - inside);
    }
    this.#chain.process(left.ptr, right.ptr, BLOCK);
    this.#input += BLOCK;
    const skip = Math.min(this.#discard, BLOCK);
    this.#discard -= skip;
    this.#at = skip;
    this.#have = BLOCK;
  }

  /** Writes the next n frames to two f32 blocks. Any n gives the same samples. */
  read(l: number, r: number, n: number): void {
    for (let done = 0; done < n;) {
      while (this.#at === this.#have) this.#fill();
      const m = Math.min(n - done, this.#have - this.#at);
      kernels.copy(l + done * 4, this.#block.left.ptr + this.#at * 4, m);
      kernels.copy(r + done * 4, this.#block.right.ptr + this.#at * 4, m);
      this.#at += m;
      done += m;
    }
    if (this.#shaped) {
      if (this.#gain !== 1) {
        kernels.gain(l, n, this.#gain);
        kernels.gain(r, n, this.#gain);
      }
      fadeBlock(this.clip, this.#position, l, r, n);
    }
    this.#position += n;
  }

  /** The frames of the recording that reading n more frames may take. */
  needed(n: number): FrameRange {
    const { recordingId, offset } = this.#window;
    const to = Math.min(this.#end, this.#input + n + this.#discard + BLOCK);
    return { recordingId, from: offset + Math.min(this.#input, to), to: offset + to };
  }

  release(): void {
    this.#block.release();
    this.#chain.release();
  }
}

/** The frames of its recording that a clip's stream reads when it is started at `from` and read up to `to` (frames after the clip's start). */
export function framesNeeded(clip: ResolvedClip, sampleRate: number, from: number, to: number): FrameRange {
  const { recordingId, offset, steps } = windowOf(clip);
  const timing = chainTiming(steps, sampleRate);
  const begin = Math.max(0, from - runIn(timing, sampleRate));
  const end = Math.min(clip.length, to + timing.latency + BLOCK);
  return { recordingId, from: offset + begin, to: offset + Math.max(begin, end) };
}

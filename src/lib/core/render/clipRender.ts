// A clip's chain as a new recording: handle before, the clip exactly as it is heard, handle after, tail.
import { BLOCK, StereoBlock } from "../audio/block";
import { chainTiming } from "../effects/chain";
import { kernels } from "../kernels/instance";
import { recipeOf } from "../session/clipState";
import { chainStretch, hearsBeyond } from "../session/heard";
import type { ResolvedClip } from "../session/lookup";
import type { Render } from "../session/schema";
import { dbToGain } from "../units/decibels";
import { ClipStream } from "./clipStream";
import { ringFrames } from "./ringOut";
import type { Source } from "./source";

const JOIN_SECONDS = 0.005;
const TAIL_FALL_DB = -60;
const TAIL_QUIET_SECONDS = 0.1;
const TAIL_MAX_SECONDS = 30;

export interface ClipRenderOptions {
  readonly clip: ResolvedClip;
  /** Its first steps that are rendered; all when left out. */
  readonly upTo?: number | undefined;
  readonly sampleRate: number;
  /** Length of the clip's recording. */
  readonly recordingFrames: number;
  /** Frames kept on both sides, as far as the recording has them. */
  readonly handleFrames: number;
  /** Frames after the handle with the chain ringing, or "auto": until it stays 60 dB under the clip's peak for 100 ms and the time between echoes; 30 s at most. */
  readonly tailFrames: number | "auto";
}

/** Frames that a render keeps before and after the clip's window. */
export function renderSides({
  clip,
  upTo,
  recordingFrames,
  handleFrames
}: Pick<ClipRenderOptions, "clip" | "upTo" | "recordingFrames" | "handleFrames">): {
  readonly head: number;
  readonly after: number;
} {
  const end = clip.offset + clip.length;
  const { from, to } = chainStretch(clip);
  // Steps that play live on top hear what they heard before.
  const live = clip.steps.slice(upTo ?? clip.steps.length).some((step) => step.on);
  const least = live ? { head: clip.offset - from, after: to - end } : { head: 0, after: 0 };
  // One that rings out is rendered as it sounds, with its closing fade and its tail: no handle could be trimmed out of that.
  const handle = clip.ringOut ? 0 : handleFrames;
  return {
    head: Math.max(least.head, Math.min(handle, clip.offset)),
    after: Math.max(0, Math.min(Math.max(handle, least.after), recordingFrames - end))
  };
}

/** Takes finished frames: two f32 blocks in the kernels' memory, valid during the call. */
export type Sink = (l: number, r: number, frames: number) => void;

interface Frame {
  readonly left: number;
  readonly right: number;
}

function frameAt(
  clip: ResolvedClip,
  source: Source,
  sampleRate: number,
  position: number,
  reach: { before?: number; after?: number }
): Frame {
  const block = new StereoBlock(1);
  const stream = new ClipStream(clip, source, sampleRate, position, { shaped: false, ...reach });
  stream.read(block.left.ptr, block.right.ptr, 1);
  const frame = { left: block.left.f32[0], right: block.right.f32[0] };
  stream.release();
  block.release();
  return frame;
}

/**
 * Renders a clip's chain. The frames inside the clip's window are those of the preview, bit for bit: there the chain starts from
 * silence at the start of what it hears, which mostly is the clip's. The handles come from passes of their own that run on through the clip's edges; over 5 ms
 * they are bent so that they meet the clip's first and last sample: trimming outwards later makes no step.
 * @param tick called after each block with the frames done; throw in it to cancel
 * @returns how the render fits the recording
 */
export function renderClip(
  options: ClipRenderOptions,
  source: Source,
  sink: Sink,
  tick: (done: number) => void = () => undefined
): Render {
  const { clip, sampleRate } = options;
  const { ringOut } = clip;
  const { head, after } = renderSides(options);
  const stretch = chainStretch(clip);
  // Behind a piece that was cut off another that one goes on: nothing ends there that could ring.
  const ends = clip.offset + clip.length + after >= stretch.to;
  const join = Math.round(JOIN_SECONDS * sampleRate);
  const block = new StereoBlock(BLOCK);
  const [l, r] = [block.left.ptr, block.right.ptr];
  let done = 0;
  const emit = (n: number) => {
    sink(l, r, n);
    done += n;
    tick(done);
  };
  // What the chain alone makes of the recording: without an older render, gain and fades.
  const bare = { ...clip, render: null, steps: clip.steps.slice(0, options.upTo) };
  const rings = ringFrames(clip, sampleRate);
  try {
    if (head > 0) {
      const reach = { before: head };
      const want = frameAt(bare, source, sampleRate, 0, {});
      const have = frameAt(bare, source, sampleRate, 0, reach);
      const stream = new ClipStream(bare, source, sampleRate, -head, { shaped: false, ...reach });
      for (let at = 0; at < head; at += BLOCK) {
        const n = Math.min(BLOCK, head - at);
        stream.read(l, r, n);
        bend(block, n, (i) => 1 - (head - (at + i)) / join, want.left - have.left, want.right - have.right);
        emit(n);
      }
      stream.release();
    }
    const main = new ClipStream(bare, source, sampleRate, 0, { shaped: false });
    let lastLeft = 0;
    let lastRight = 0;
    let peak = 0;
    for (let at = 0; at < clip.length; at += BLOCK) {
      const n = Math.min(BLOCK, clip.length - at);
      main.read(l, r, n);
      lastLeft = block.left.f32[n - 1];
      lastRight = block.right.f32[n - 1];
      peak = Math.max(peak, kernels.peak(l, n), kernels.peak(r, n));
      emit(n);
    }
    for (let at = 0; at < rings; at += BLOCK) {
      const n = Math.min(BLOCK, rings - at);
      main.read(l, r, n);
      emit(n);
    }
    main.release();
    if (!ringOut) {
      const have = frameAt(bare, source, sampleRate, clip.length - 1, { after });
      const stream = new ClipStream(bare, source, sampleRate, clip.length, { shaped: false, after });
      const tail = new Tail(options.tailFrames, sampleRate, chainTiming(bare.steps, sampleRate).gap, peak);
      let at = 0;
      while (at < after || (ends && !tail.over)) {
        const n = at < after ? Math.min(BLOCK, after - at) : tail.next();
        const from = at;
        stream.read(l, r, n);
        bend(block, n, (i) => 1 - (from + i + 1) / join, lastLeft - have.left, lastRight - have.right);
        if (at >= after) tail.add(Math.max(kernels.peak(l, n), kernels.peak(r, n)), n);
        emit(n);
        at += n;
      }
      stream.release();
    }
  } finally {
    block.release();
  }
  const below = clip.recordingSteps.filter((step) => step.on);
  return {
    recordingId: "",
    origin: clip.offset - head,
    frames: done,
    steps: recipeOf(bare.steps),
    window: { offset: clip.offset, length: clip.length },
    ...(hearsBeyond(clip) ? { heard: stretch } : {}),
    ...(below.length > 0 ? { recordingSteps: recipeOf(below) } : {}),
    ...(ringOut ? { rung: { ringOut, fadeOut: clip.fadeOut, frames: rings } } : {})
  };
}

function bend(
  block: StereoBlock,
  n: number,
  weight: (i: number) => number,
  left: number,
  right: number
): void {
  if (left === 0 && right === 0) return;
  const [a, b] = [block.left.f32, block.right.f32];
  for (let i = 0; i < n; i++) {
    const w = weight(i);
    if (w <= 0) continue;
    a[i] += left * w;
    b[i] += right * w;
  }
}

/** How much of the tail is still to come. */
class Tail {
  #left: number;
  #quiet = 0;
  readonly #auto: boolean;
  readonly #enough: number;
  readonly #floor: number;

  /**
   * @param gap longest silence that the chain may leave between echoes
   * @param peak of what it rings from
   */
  constructor(frames: number | "auto", sampleRate: number, gap: number, peak: number) {
    this.#auto = frames === "auto";
    this.#left = frames === "auto" ? Math.round(TAIL_MAX_SECONDS * sampleRate) : frames;
    this.#floor = peak * dbToGain(TAIL_FALL_DB);
    this.#enough = gap + Math.round(TAIL_QUIET_SECONDS * sampleRate);
  }

  get over(): boolean {
    return this.#left <= 0 || (this.#auto && this.#quiet >= this.#enough);
  }

  next(): number {
    return Math.min(BLOCK, this.#left);
  }

  add(peak: number, frames: number): void {
    this.#left -= frames;
    this.#quiet = peak <= this.#floor ? this.#quiet + frames : 0;
  }
}

// What a clip sounds from: a window on a recording, or on its render, and the steps that it goes through.
//
//   recording ── its chain (under) ── window ── the clip's steps
import { recordingsOf } from "../effects/registry";
import { renderedSteps } from "../session/clipState";
import { chainStretch, type Stretch } from "../session/heard";
import type { ResolvedClip } from "../session/lookup";
import type { StepSpec } from "../effects/chain";
import type { Fade } from "../session/schema";

export interface Inside {
  readonly from: number;
  readonly length: number;
}

/** A stretch of a recording and the steps that it goes through. */
export interface SoundPart {
  readonly recordingId: string;
  readonly offset: number;
  readonly length: number;
  /** Position, in the measure of spans, of the part's first frame. */
  readonly origin: number;
  readonly steps: readonly StepSpec[];
  /** A fade at the part's end that lies before its steps: of a clip that rings out. */
  readonly closing?: Fade | undefined;
  /** Frames after the part's end that its recording goes on for, instead of silence: of a render that contains a ring-out. */
  readonly rings?: number | undefined;
  /** The frames of the part that are let be heard, when that is not all of it: of a clip that was cut off another. */
  readonly inside?: Inside | undefined;
  /** The recording with a chain of its own: the window is one on that. */
  readonly under?: SoundPart | undefined;
}

/** The frames of a part that are let be heard. */
export function insideOf({ inside, length }: SoundPart): Inside {
  return inside ?? { from: 0, length };
}

/** A recording with its own chain; undefined when no step of it is on. */
export function recordingPart(
  recordingId: string,
  frames: number,
  steps: readonly StepSpec[]
): SoundPart | undefined {
  if (!steps.some((s) => s.on)) return undefined;
  return { recordingId, offset: 0, length: frames, origin: 0, steps };
}

const parts = new WeakMap<ResolvedClip, SoundPart>();

/**
 * What a clip's chain hears, and from which recording: the render when it matches, else the recording itself. What of it is the clip says
 * `inside`. The same object for the same clip.
 */
export function partOf(clip: ResolvedClip): SoundPart {
  let part = parts.get(clip);
  if (!part) parts.set(clip, (part = made(clip)));
  return part;
}

function made(clip: ResolvedClip): SoundPart {
  const { recordingId, recordingFrames, offset, steps, render } = clip;
  const done = renderedSteps(clip);
  if (render && done > 0) {
    // A render of a piece may hold less than its chain heard.
    const frames = render.frames - (render.rung?.frames ?? 0);
    return {
      recordingId: render.recordingId,
      ...windowOf(clip, { from: render.origin, to: render.origin + frames }, render.origin),
      steps: steps.slice(done),
      ...(render.rung ? { rings: render.rung.frames } : {})
    };
  }
  const under = recordingPart(recordingId, clip.recordingFrames, clip.recordingSteps);
  const closing = clip.ringOut && clip.fadeOut.length > 0 ? { closing: clip.fadeOut } : {};
  const all = { from: 0, to: Math.max(recordingFrames, offset + clip.length) };
  return { recordingId, ...windowOf(clip, all, 0), steps, under, ...closing };
}

/** What a clip's chain hears within some frames of its recording, counted from `zero`. */
function windowOf(
  clip: ResolvedClip,
  within: Stretch,
  zero: number
): Pick<SoundPart, "offset" | "length" | "origin" | "inside"> {
  const { offset, length } = clip;
  const stretch = chainStretch(clip);
  const from = Math.min(offset, Math.max(stretch.from, within.from));
  const to = Math.max(offset + length, Math.min(stretch.to, within.to));
  const whole = from === offset && to === offset + length;
  return {
    offset: from - zero,
    length: to - from,
    origin: from,
    ...(whole ? {} : { inside: { from: offset - from, length } })
  };
}

/** Recordings that the steps of a part, and of the recording under it, ask for as a whole. */
export function askedBy({ steps, under }: SoundPart): string[] {
  return [...steps, ...(under?.steps ?? [])].filter((s) => s.on).flatMap(recordingsOf);
}

// What a clip sounds from: a window on a recording, or on its render, and the steps that it goes through.
//
//   recording ── its chain (under) ── window ── the clip's steps
import { recordingsOf } from "../effects/registry";
import { renderedSteps } from "../session/clipState";
import type { ResolvedClip } from "../session/lookup";
import type { StepSpec } from "../effects/chain";
import type { Fade } from "../session/schema";

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
  /** The recording with a chain of its own: the window is one on that. */
  readonly under?: SoundPart | undefined;
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

/** What of a clip is audible, and from which recording: the render when it matches, else the recording itself. The same object for the same clip. */
export function partOf(clip: ResolvedClip): SoundPart {
  let part = parts.get(clip);
  if (!part) parts.set(clip, (part = made(clip)));
  return part;
}

function made(clip: ResolvedClip): SoundPart {
  const { recordingId, offset, length, steps, render } = clip;
  const done = renderedSteps(clip);
  if (render && done > 0)
    return {
      recordingId: render.recordingId,
      offset: offset - render.origin,
      length,
      origin: offset,
      steps: steps.slice(done),
      ...(render.rung ? { rings: render.rung.frames } : {})
    };
  const under = recordingPart(recordingId, clip.recordingFrames, clip.recordingSteps);
  const closing = clip.ringOut && clip.fadeOut.length > 0 ? { closing: clip.fadeOut } : {};
  return { recordingId, offset, length, origin: offset, steps, under, ...closing };
}

/** Recordings that the steps of a part, and of the recording under it, ask for as a whole. */
export function askedBy({ steps, under }: SoundPart): string[] {
  return [...steps, ...(under?.steps ?? [])].filter((s) => s.on).flatMap(recordingsOf);
}

// Ring-out: what a clip's chain leaves ringing sounds on after the clip's end. The closing fade lies before the chain then.
import { soundEnd } from "../effects/chain";
import type { ResolvedClip } from "../session/lookup";
import { closeBlock } from "../audio/fades";
import type { Fade } from "../session/schema";

/** Longest ring-out, in seconds. */
export const RING_MOST_SECONDS = 30;
/** The last frames of a ring-out are faded, so that one that is cut short by a typed length does not click. In seconds. */
const CLOSING_SECONDS = 0.02;

/**
 * Frames that a clip sounds on after its end: as many as were typed, or until the tails of its steps are 90 dB down; what its
 * recording's own chain leaves ringing lies under the window and is not heard after it. 0 without ring-out.
 */
export function ringFrames(clip: ResolvedClip, sampleRate: number): number {
  if (!clip.ringOut) return 0;
  const most = RING_MOST_SECONDS * sampleRate;
  if (clip.ringOut.frames !== null) return Math.min(most, clip.ringOut.frames);
  // Rendered or not: a render of the first steps holds what all of them leave ringing.
  const steps = clip.steps.map(({ span, ...step }) => ({
    ...step,
    span: span && { ...span, from: span.from - clip.offset, to: span.to - clip.offset }
  }));
  return Math.min(most, soundEnd(steps, sampleRate, clip.length) - clip.length);
}

/** Frame of the timeline at which a clip is over, with what rings after it. */
export function soundingEnd(clip: ResolvedClip, sampleRate: number): number {
  return clip.start + clip.length + ringFrames(clip, sampleRate);
}

/** The closing fade of a ring-out of `rings` frames, on n frames that begin `position` frames after the start of a clip of `length`. */
export function closeRing(
  length: number,
  rings: number,
  sampleRate: number,
  position: number,
  l: number,
  r: number,
  n: number
): void {
  if (rings === 0 || position + n <= length) return;
  const closing = Math.min(rings, Math.round(CLOSING_SECONDS * sampleRate));
  const fadeOut: Fade = { length: closing, shape: { curve: "smooth" } };
  closeBlock(length + rings, fadeOut, position, l, r, n);
}

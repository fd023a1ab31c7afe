// Cutting a clip down, and what that does to its fades.
import { chainStretch } from "./heard";
import { endOf } from "./lanes";
import type { Clip, FadeShape } from "./schema";

/** A fade never outlasts its clip, and the two never overlap: the closing one gives way. */
export function fitted(clip: Clip): Clip {
  const fadeIn = Math.min(clip.fadeIn.length, clip.length);
  const fadeOut = Math.min(clip.fadeOut.length, clip.length - fadeIn);
  if (fadeIn === clip.fadeIn.length && fadeOut === clip.fadeOut.length) return clip;
  return {
    ...clip,
    fadeIn: { ...clip.fadeIn, length: fadeIn },
    fadeOut: { ...clip.fadeOut, length: fadeOut }
  };
}

/** A clip that goes on in another after a cut: only what has the end rings out. */
export function endless(clip: Clip): Clip {
  return clip.ringOut ? { ...clip, ringOut: null } : clip;
}

/** The part of a clip that lies in [from, to) of the timeline. Where it is cut it has no fade; its chain hears on what it heard. */
export function windowed(clip: Clip, from: number, to: number): Clip {
  const start = Math.max(from, clip.start);
  const end = Math.min(to, endOf(clip));
  if (start === clip.start && end === endOf(clip)) return clip;
  return fitted({
    ...(end < endOf(clip) ? endless(clip) : clip),
    start,
    offset: clip.offset + start - clip.start,
    length: end - start,
    ...(clip.chain === null ? {} : { heard: chainStretch(clip) }),
    fadeIn: start > clip.start ? { ...clip.fadeIn, length: 0 } : clip.fadeIn,
    fadeOut: end < endOf(clip) ? { ...clip.fadeOut, length: 0 } : clip.fadeOut
  });
}

/** The shape of both fades of a crossfade of two sounds with a correlation: their power stays level. */
export function crossShape(correlation: number): FadeShape {
  const known = Math.max(0, Math.min(1, correlation));
  return { curve: "levelPower", correlation: Math.round(known * 1000) / 1000 };
}

/** Whether two clips, where they overlap, sound the very same: the same stretch of the same recording, treated by the same chain. */
export function sameSound(a: Clip, b: Clip): boolean {
  return (
    a.content.recordingId === b.content.recordingId &&
    a.start - a.offset === b.start - b.offset &&
    a.chain === null &&
    b.chain === null &&
    a.render === null &&
    b.render === null &&
    a.gainDb === b.gainDb
  );
}

/** The correlation to begin with when none was measured: 1 of the same sound, else 0. */
export function assumedCorrelation(a: Clip, b: Clip): number {
  return sameSound(a, b) ? 1 : 0;
}

/** A clip with a fade of a length, and of a shape if one is given. */
export function withFade(clip: Clip, edge: "in" | "out", length: number, shape?: FadeShape): Clip {
  const field = edge === "in" ? "fadeIn" : "fadeOut";
  const now = clip[field];
  return fitted({ ...clip, [field]: { ...now, length: Math.round(length), shape: shape ?? now.shape } });
}

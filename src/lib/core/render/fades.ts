import { kernels } from "../kernels/instance";
import type { Clip, FadeCurve } from "../session/schema";

const CURVES: Record<FadeCurve, number> = {
  straight: 0,
  equalPower: 1,
  sShaped: 2,
  smooth: 3,
  logarithmic: 4
};

/** Gain of a fade at t from 0 (silent end) to 1 (full). Formulas: kernels/assembly/fade.ts. */
export function fadeGain(t: number, curve: FadeCurve): number {
  return kernels.fadeGain(t, CURVES[curve]);
}

/**
 * Applies a clip's fades to n frames that begin `position` frames after its start.
 * The first frame of a fade in and the last of a fade out are half a frame from silence, so that both ends are alike.
 */
export function fadeClip(
  clip: Pick<Clip, "length" | "fadeIn" | "fadeOut">,
  position: number,
  l: number,
  r: number,
  n: number
): void {
  const { fadeIn, fadeOut, length } = clip;
  if (position < fadeIn.length) {
    const m = Math.min(n, fadeIn.length - position);
    kernels.fade(l, r, m, position + 0.5, 1, fadeIn.length, CURVES[fadeIn.curve]);
  }
  const begin = length - fadeOut.length;
  if (fadeOut.length > 0 && position + n > begin) {
    const skip = Math.max(0, begin - position);
    const left = length - (position + skip);
    kernels.fade(l + skip * 4, r + skip * 4, n - skip, left - 0.5, -1, fadeOut.length, CURVES[fadeOut.curve]);
  }
}

/** Gain of a clip's fades at a position in frames after its start, for drawing. */
export function fadeGainAt(clip: Pick<Clip, "length" | "fadeIn" | "fadeOut">, position: number): number {
  const { fadeIn, fadeOut, length } = clip;
  let g = 1;
  if (fadeIn.length > 0 && position < fadeIn.length)
    g *= fadeGain((position + 0.5) / fadeIn.length, fadeIn.curve);
  if (fadeOut.length > 0 && position > length - fadeOut.length)
    g *= fadeGain((length - position - 0.5) / fadeOut.length, fadeOut.curve);
  return g;
}

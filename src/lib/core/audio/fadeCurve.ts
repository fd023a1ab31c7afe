import { kernels } from "../kernels/instance";

export const FADE_CURVES = ["straight", "equalPower", "sShaped", "smooth", "logarithmic"] as const;
export type FadeCurve = (typeof FADE_CURVES)[number];

export const FADE_NAMES: Record<FadeCurve, string> = {
  straight: "straight",
  equalPower: "equal power",
  sShaped: "S-shaped",
  smooth: "smooth",
  logarithmic: "logarithmic"
};

interface Fade {
  readonly length: number;
  readonly shape: { readonly curve: FadeCurve };
}

/** Fades of a stretch of `length` frames, in frames. */
export interface Fades {
  readonly length: number;
  readonly fadeIn: Fade;
  readonly fadeOut: Fade;
}

const numberOf = (curve: FadeCurve) => FADE_CURVES.indexOf(curve);

/** Gain of a fade at t from 0 (silent end) to 1 (full). Formulas: kernels/assembly/fade.ts. */
export function fadeGain(t: number, curve: FadeCurve): number {
  return kernels.fadeGain(t, numberOf(curve));
}

/**
 * Applies fades to n frames that begin `position` frames after the stretch's start.
 * The first frame of a fade in and the last of a fade out are half a frame from silence, so that both ends are alike.
 */
export function fadeBlock(fades: Fades, position: number, l: number, r: number, n: number): void {
  const { fadeIn, fadeOut, length } = fades;
  if (position < fadeIn.length) {
    const m = Math.min(n, fadeIn.length - position);
    kernels.fade(l, r, m, position + 0.5, 1, fadeIn.length, numberOf(fadeIn.shape.curve));
  }
  const begin = length - fadeOut.length;
  if (fadeOut.length > 0 && position + n > begin) {
    const skip = Math.max(0, begin - position);
    const left = length - (position + skip);
    kernels.fade(
      l + skip * 4,
      r + skip * 4,
      n - skip,
      left - 0.5,
      -1,
      fadeOut.length,
      numberOf(fadeOut.shape.curve)
    );
  }
}

/** Gain of fades at a position in frames after the stretch's start, for drawing. */
export function fadeGainAt({ fadeIn, fadeOut, length }: Fades, position: number): number {
  let g = 1;
  if (fadeIn.length > 0 && position < fadeIn.length)
    g *= fadeGain((position + 0.5) / fadeIn.length, fadeIn.shape.curve);
  if (fadeOut.length > 0 && position > length - fadeOut.length)
    g *= fadeGain((length - position - 0.5) / fadeOut.length, fadeOut.shape.curve);
  return g;
}

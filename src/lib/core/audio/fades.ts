import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { BLOCK } from "./block";
import { EnvelopeCurve, type Join } from "./envelope";

/** Curves that are formulas of their own: kernels/assembly/fade.ts. */
export const PLAIN_CURVES = [
  "straight",
  "equalPower",
  "sShaped",
  "smooth",
  "logarithmic",
  "exponential"
] as const;
/** All: with the one that keeps the power of two correlated sounds level, and the one that is drawn. */
export const FADE_CURVES = [...PLAIN_CURVES, "levelPower", "drawn"] as const;
export type FadeCurve = (typeof FADE_CURVES)[number];

export const FADE_NAMES: Record<FadeCurve, string> = {
  straight: "straight",
  equalPower: "equal power",
  sShaped: "S-shaped",
  smooth: "smooth",
  logarithmic: "logarithmic",
  exponential: "exponential",
  levelPower: "level power",
  drawn: "drawn"
};

/** The gain over a fade. */
export interface FadeShape {
  readonly curve: FadeCurve;
  /** -10 to 10: above 0 the sound comes earlier, below 0 later. */
  readonly bend?: number | undefined;
  /** Of the two sounds that level power crosses, 0 to 1. */
  readonly correlation?: number | undefined;
  /** Of a drawn curve, between silence at 0 and full level at 1: shares of the length, and gains. */
  readonly points?: readonly { readonly at: number; readonly gain: number }[] | undefined;
  readonly join?: Join | undefined;
}

interface Fade {
  readonly length: number;
  readonly shape: FadeShape;
}

/** Fades of a stretch of `length` frames, in frames. */
export interface Fades {
  readonly length: number;
  readonly fadeIn: Fade;
  readonly fadeOut: Fade;
}

const numberOf = (curve: FadeCurve) => FADE_CURVES.indexOf(curve);

const drawnCurves = new WeakMap<FadeShape, EnvelopeCurve>();

function drawnCurve(shape: FadeShape): EnvelopeCurve {
  let curve = drawnCurves.get(shape);
  if (!curve) {
    const between = (shape.points ?? []).map(({ at, gain }) => ({ at, value: gain }));
    const points = [{ at: 0, value: 0 }, ...between, { at: 1, value: 1 }];
    drawnCurves.set(shape, (curve = new EnvelopeCurve({ points, join: shape.join ?? "smooth" })));
  }
  return curve;
}

/** Gain of a fade at t from 0 (silent end) to 1 (full). Formulas: kernels/assembly/fade.ts, audio/envelope.ts. */
export function fadeGain(t: number, shape: FadeShape): number {
  const { curve, bend = 0, correlation = 0 } = shape;
  if (curve !== "drawn") return kernels.fadeGain(t, numberOf(curve), bend, correlation);
  if (t <= 0) return 0;
  return t >= 1 ? 1 : drawnCurve(shape).at(kernels.bent(t, bend));
}

let scratch: Buffer | undefined;

/** One fade over n frames, from a position counted from its silent end on, forwards or backwards. */
function fadeRun({ length, shape }: Fade, l: number, r: number, n: number, from: number, way: 1 | -1): void {
  const { curve, bend = 0, correlation = 0 } = shape;
  if (curve !== "drawn") {
    kernels.fade(l, r, n, from, way, length, numberOf(curve), bend, correlation);
    return;
  }
  scratch ??= new Buffer(BLOCK * 4);
  for (let done = 0; done < n; done += BLOCK) {
    const m = Math.min(BLOCK, n - done);
    const gains = scratch.f32;
    for (let i = 0; i < m; i++) gains[i] = fadeGain((from + way * (done + i)) / length, shape);
    const [a, b] = [l + done * 4, r + done * 4];
    kernels.applyGains(a, b, a, b, scratch.ptr, m);
  }
}

/**
 * Applies fades to n frames that begin `position` frames after the stretch's start.
 * The first frame of a fade in and the last of a fade out are half a frame from silence, so that both ends are alike.
 */
export function fadeBlock(fades: Fades, position: number, l: number, r: number, n: number): void {
  const { fadeIn, fadeOut, length } = fades;
  if (position < fadeIn.length)
    fadeRun(fadeIn, l, r, Math.min(n, fadeIn.length - position), position + 0.5, 1);
  const begin = length - fadeOut.length;
  if (fadeOut.length > 0 && position + n > begin) {
    const skip = Math.max(0, begin - position);
    const left = length - (position + skip);
    fadeRun(fadeOut, l + skip * 4, r + skip * 4, n - skip, left - 0.5, -1);
  }
}

const NO_FADE: Fade = { length: 0, shape: { curve: "straight" } };

/** Applies a fade out alone: to n frames that begin `position` frames after the start of a stretch of `length`. */
export function closeBlock(
  length: number,
  fadeOut: Fade,
  position: number,
  l: number,
  r: number,
  n: number
): void {
  fadeBlock({ length, fadeIn: NO_FADE, fadeOut }, position, l, r, n);
}

/** Gain of fades at a position in frames after the stretch's start, for drawing. */
export function fadeGainAt({ fadeIn, fadeOut, length }: Fades, position: number): number {
  let g = 1;
  if (fadeIn.length > 0 && position < fadeIn.length)
    g *= fadeGain((position + 0.5) / fadeIn.length, fadeIn.shape);
  if (fadeOut.length > 0 && position >= length - fadeOut.length)
    g *= fadeGain((length - position - 0.5) / fadeOut.length, fadeOut.shape);
  return g;
}

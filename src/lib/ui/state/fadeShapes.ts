// Shapes of fades, as they are edited.
import { fadeGain } from "$lib/core/audio/fades";
import { MAX_FADE_POINTS, type Join } from "$lib/core/audio/envelope";
import type { FadeCurve } from "$lib/core/audio/fades";
import type { FadeShape } from "$lib/core/session/schema";

/** Points at which a drawn curve begins, taken from the one before. */
const FIRST = [0.25, 0.5, 0.75];

/** Points lie at least so far apart, and from the ends. */
const APART = 0.005;

/** A shape with another curve. One that is drawn begins as the one before was; what belongs to a curve alone goes with it. */
export function otherCurve(shape: FadeShape, curve: FadeCurve): FadeShape {
  const bend = shape.bend ? { bend: shape.bend } : {};
  if (curve === "drawn")
    return {
      curve,
      points: FIRST.map((at) => ({ at, gain: Math.round(fadeGain(at, shape) * 1000) / 1000 })),
      join: "smooth"
    };
  if (curve === "levelPower") return { curve, ...bend, correlation: shape.correlation ?? 0 };
  return { curve, ...bend };
}

const place = (at: number) => Math.round(Math.max(APART, Math.min(1 - APART, at)) * 1000) / 1000;
const level = (gain: number) => Math.round(Math.max(0, Math.min(1, gain)) * 1000) / 1000;

/** A drawn shape with one more point; the same when there is no room for it. */
export function withFadePoint(shape: FadeShape, at: number, gain: number): FadeShape {
  const points = shape.points ?? [];
  const where = place(at);
  if (points.length >= MAX_FADE_POINTS || points.some((p) => Math.abs(p.at - where) < APART)) return shape;
  return { ...shape, points: [...points, { at: where, gain: level(gain) }].sort((a, b) => a.at - b.at) };
}

/** A drawn shape with a point moved; it does not pass its neighbours. */
export function withFadePointAt(shape: FadeShape, index: number, at: number, gain: number): FadeShape {
  const points = shape.points ?? [];
  const least = (points[index - 1]?.at ?? 0) + APART;
  const most = (points[index + 1]?.at ?? 1) - APART;
  const moved = { at: place(Math.max(least, Math.min(most, at))), gain: level(gain) };
  return { ...shape, points: points.map((point, i) => (i === index ? moved : point)) };
}

export function withoutFadePoint(shape: FadeShape, index: number): FadeShape {
  return { ...shape, points: (shape.points ?? []).filter((_, i) => i !== index) };
}

export function withJoin(shape: FadeShape, join: Join): FadeShape {
  return { ...shape, join };
}

export function withFadeBend(shape: FadeShape, bend: number): FadeShape {
  const set = Math.round(Math.max(-10, Math.min(10, bend)) * 10) / 10;
  return { ...shape, bend: set };
}

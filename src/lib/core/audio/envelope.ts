// A value that changes over time, by points: drawn fades, lines of gain and pan. Drawing and sound ask the same function.
import { kernels } from "../kernels/instance";

/** Ways of getting from point to point. */
export const JOINS = ["straight", "smooth"] as const;
export type Join = (typeof JOINS)[number];

/** Most points of a drawn fade. */
export const MAX_FADE_POINTS = 16;

export interface EnvelopePoint {
  /** In the measure of the envelope: frames, or shares of a fade. */
  readonly at: number;
  readonly value: number;
  /** How the way to the next point is bent, -10 to 10: above 0 it changes early, below 0 late. Straight joins only. */
  readonly bend?: number | undefined;
}

export interface Envelope {
  /** By their places, ascending. Before the first and behind the last it stays. */
  readonly points: readonly EnvelopePoint[];
  readonly join: Join;
}

/**
 * Slopes at the points of a monotone cubic: no overshoot between them.
 * Source: Fritsch & Carlson, "Monotone Piecewise Cubic Interpolation", SIAM J. Numer. Anal. 17 (1980), with their region S2 (a circle of radius 3).
 */
export function monotoneSlopes(points: readonly EnvelopePoint[]): number[] {
  const last = points.length - 1;
  const secants = points.slice(1).map((p, i) => {
    const from = points[i] ?? p;
    return p.at > from.at ? (p.value - from.value) / (p.at - from.at) : 0;
  });
  const slopes = points.map((_, i) => {
    const before = secants[i - 1] ?? secants[i] ?? 0;
    const after = secants[i] ?? before;
    if (i > 0 && i < last && before * after <= 0) return 0;
    return (before + after) / 2;
  });
  secants.forEach((secant, i) => {
    if (secant === 0) {
      slopes[i] = slopes[i + 1] = 0;
      return;
    }
    const a = (slopes[i] ?? 0) / secant;
    const b = (slopes[i + 1] ?? 0) / secant;
    const radius = Math.sqrt(a * a + b * b);
    if (radius <= 3) return;
    slopes[i] = (3 / radius) * a * secant;
    slopes[i + 1] = (3 / radius) * b * secant;
  });
  return slopes;
}

/** An envelope, ready to be asked. */
export class EnvelopeCurve {
  readonly #points: readonly EnvelopePoint[];
  readonly #slopes: readonly number[] | undefined;
  /** Where the last question fell: the next one falls there mostly. */
  #segment = 0;

  constructor({ points, join }: Envelope) {
    this.#points = points;
    this.#slopes = join === "smooth" && points.length > 1 ? monotoneSlopes(points) : undefined;
  }

  /** The value at a place; 0 without points. */
  at(place: number): number {
    const points = this.#points;
    const last = points.length - 1;
    const first = points[0];
    if (!first) return 0;
    if (place <= first.at) return first.value;
    const end = points[last] ?? first;
    if (place >= end.at) return end.value;
    const from = points[this.#find(place)] ?? first;
    const to = points[this.#segment + 1] ?? end;
    const length = to.at - from.at;
    const t = (place - from.at) / length;
    if (!this.#slopes) return from.value + (to.value - from.value) * kernels.bent(t, from.bend ?? 0);
    const [a, b] = [this.#slopes[this.#segment] ?? 0, this.#slopes[this.#segment + 1] ?? 0];
    // Hermite's basis.
    const u = 1 - t;
    return (
      from.value * (1 + 2 * t) * u * u +
      to.value * (3 - 2 * t) * t * t +
      length * (a * t * u * u - b * t * t * u)
    );
  }

  /** Index of the point before a place that lies between the first and the last. */
  #find(place: number): number {
    const points = this.#points;
    let i = this.#segment;
    const holds = (k: number) =>
      (points[k]?.at ?? Infinity) <= place && place < (points[k + 1]?.at ?? Infinity);
    if (!holds(i) && !holds(++i)) {
      let [low, high] = [0, points.length - 1];
      while (high - low > 1) {
        const middle = (low + high) >> 1;
        if ((points[middle]?.at ?? Infinity) <= place) low = middle;
        else high = middle;
      }
      i = low;
    }
    this.#segment = i;
    return i;
  }
}

const curves = new WeakMap<Envelope, EnvelopeCurve>();

/** The curve of an envelope; the same object for the same envelope. */
export function curveOf(envelope: Envelope): EnvelopeCurve {
  let curve = curves.get(envelope);
  if (!curve) curves.set(envelope, (curve = new EnvelopeCurve(envelope)));
  return curve;
}

// The complex amplitude of one line over time: a random walk, estimated from all frames by a Kalman filter and the smoother of Rauch, Tung and
// Striebel (R. E. Kalman 1960; H. E. Rauch et al., AIAA Journal 3, 1965; S. Särkkä, "Bayesian Filtering and Smoothing", 2013). Frames that do
// not fit count less, as with a Student's t distribution: speech passes through a line, hum stays on it.
import type { LineFrames } from "./lineFrames";

const ROUNDS = 4;
const UNKNOWN = 1e3;
/** Seconds over which a line's amplitude changes. */
const CHANGE_SECONDS = 8;

export interface LineTrack {
  readonly re: Float64Array;
  readonly im: Float64Array;
  /** Variance of the estimate. */
  readonly variance: Float64Array;
  /** Variance that each frame was given in the end. */
  readonly noise: Float64Array;
}

/** Power of a line at a frame. */
export function powerOf({ re, im }: Pick<LineTrack, "re" | "im">, i: number): number {
  return re[i] * re[i] + im[i] * im[i];
}

/** Variance of a line's walk from frame to frame, for its power. */
export function walkFor(power: number, frameSeconds: number): number {
  return (power * 2 * frameSeconds) / CHANGE_SECONDS ** 2;
}

/** Filter and smoother; a diffuse start, so that the first frame is as good as any. */
function smooth({ re, im }: LineFrames, noise: Float64Array, walk: number, out: LineTrack): void {
  const n = re.length;
  let [p, sr, si] = [UNKNOWN, 0, 0];
  for (let i = 0; i < n; i++) {
    p += walk;
    const gain = p / (p + noise[i]);
    sr += gain * (re[i] - sr);
    si += gain * (im[i] - si);
    p *= 1 - gain;
    out.re[i] = sr;
    out.im[i] = si;
    out.variance[i] = p;
  }
  for (let i = n - 2; i >= 0; i--) {
    const share = out.variance[i] / (out.variance[i] + walk);
    out.re[i] += share * (out.re[i + 1] - out.re[i]);
    out.im[i] += share * (out.im[i + 1] - out.im[i]);
    out.variance[i] += share * share * (out.variance[i + 1] - out.variance[i] - walk);
  }
}

/**
 * Amplitude of a line in each frame.
 * @param walkOf variance of its walk from frame to frame, for the variances that the frames have
 * @param silent 1 for frames that tell nothing
 */
export function trackLine(
  line: LineFrames,
  walkOf: (noise: Float64Array) => number,
  silent: Uint8Array
): LineTrack {
  const n = line.re.length;
  const base = line.noise.map((r, i) => (silent[i] ? UNKNOWN : r));
  const noise = base.slice();
  const out = { re: new Float64Array(n), im: new Float64Array(n), variance: new Float64Array(n), noise };
  const misfit = new Float64Array(n);
  for (let round = 0; round < ROUNDS; round++) {
    smooth(line, noise, walkOf(noise), out);
    for (let i = 0; i < n; i++) misfit[i] = (line.re[i] - out.re[i]) ** 2 + (line.im[i] - out.im[i]) ** 2;
    for (let i = 0; i < n; i++)
      noise[i] = base[i] + Math.max(misfit[i], misfit[Math.max(0, i - 1)], misfit[Math.min(n - 1, i + 1)]);
  }
  return out;
}

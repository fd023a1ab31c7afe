// The curve between samples: what a converter would put out, for drawing at the deepest zoom. Samples through a sinc of 32 taps under a
// Kaiser window, 256 phases (J. O. Smith, "Digital Audio Resampling", windowed sinc interpolation); linear between phases.
import { kernels } from "../kernels/instance";
import { bessel0, kaiserBeta } from "./windows";

const HALF = 16;
const PHASES = 256;
const STOP_DB = 80;

/** Samples that are read on each side of a point of the curve. */
export const CURVE_MARGIN = HALF;

let table: Float64Array | undefined;

/** Taps by phase: those of phase p read samples from floor(x) - 15 to floor(x) + 16 for x - floor(x) = p / PHASES. They add up to 1. */
function taps(): Float64Array {
  if (table) return table;
  const made = new Float64Array((PHASES + 1) * 2 * HALF);
  const beta = kaiserBeta(STOP_DB);
  for (let p = 0; p <= PHASES; p++) {
    let sum = 0;
    for (let k = 0; k < 2 * HALF; k++) {
      const x = k - HALF + 1 - p / PHASES;
      const inside = 1 - (x / HALF) ** 2;
      const window = inside > 0 ? bessel0(beta * Math.sqrt(inside)) : 0;
      const value = (Math.abs(x) < 1e-9 ? 1 : kernels.sin(Math.PI * x) / (Math.PI * x)) * window;
      made[p * 2 * HALF + k] = value;
      sum += value;
    }
    for (let k = 0; k < 2 * HALF; k++) made[p * 2 * HALF + k] /= sum;
  }
  table = made;
  return made;
}

/**
 * Value of the curve at a place between samples.
 * @param at in samples from the first; what lies outside of the samples is silence
 */
export function curveAt(samples: Float32Array, at: number): number {
  const all = taps();
  const whole = Math.floor(at);
  const phase = (at - whole) * PHASES;
  const row = Math.min(PHASES - 1, Math.floor(phase));
  const between = phase - row;
  const first = row * 2 * HALF;
  let low = 0;
  let high = 0;
  for (let k = 0; k < 2 * HALF; k++) {
    const sample = samples[whole + k - HALF + 1] ?? 0;
    low += sample * all[first + k];
    high += sample * all[first + 2 * HALF + k];
  }
  return low + (high - low) * between;
}

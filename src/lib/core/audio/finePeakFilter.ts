// Eightfold interpolation for a limiter: a sinc of 32 periods in a Kaiser window. What it misses between its points is less than 0.17 dB.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { bessel0, kaiserBeta } from "./windows";

/** Taps of a phase: as in kernels/assembly/peakEnvelope.ts. */
const FINE_TAPS = 32;
const PHASES = 8;
const ATTENUATION_DB = 40;

/** Frames by which the envelope lies behind. */
export const PEAK_DELAY = FINE_TAPS / 2;

let table: Buffer | undefined;

/** Address of the coefficients: for each tap those of the eight phases. Made once a thread. */
export function finePeakTaps(): number {
  if (table) return table.ptr;
  table = new Buffer(FINE_TAPS * PHASES * 4);
  const beta = kaiserBeta(ATTENUATION_DB);
  const half = FINE_TAPS / 2;
  for (let phase = 0; phase < PHASES; phase++)
    for (let k = 0; k < FINE_TAPS; k++) {
      // Phase p lies p / 8 after the sample that is 16 behind the newest.
      const x = half - k - phase / PHASES;
      const edge = x / half;
      const window = Math.abs(edge) >= 1 ? 0 : bessel0(beta * Math.sqrt(1 - edge * edge)) / bessel0(beta);
      const sinc = x === 0 ? 1 : kernels.sin(Math.PI * x) / (Math.PI * x);
      table.f32[k * PHASES + phase] = sinc * window;
    }
  return table.ptr;
}

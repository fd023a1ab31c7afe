// Interpolators for peaks between samples: sincs of 32 periods in a Kaiser window (J. F. Kaiser, 1974).
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { bessel0, kaiserBeta } from "./windows";

/** Taps of a phase: as in kernels/assembly/peakEnvelope.ts and steadypeak.ts. */
const TAPS = 32;

/** Frames by which a limiter's envelope, and a meter's true peak, lie behind. */
export const PEAK_DELAY = TAPS / 2;

/** For each tap the coefficients of all phases; phase p lies p / phases after the sample that is 16 behind the newest. */
function interpolator(phases: number, attenuationDb: number): Buffer {
  const table = new Buffer(TAPS * phases * 4);
  const beta = kaiserBeta(attenuationDb);
  const half = TAPS / 2;
  for (let phase = 0; phase < phases; phase++)
    for (let k = 0; k < TAPS; k++) {
      const x = half - k - phase / phases;
      const edge = x / half;
      const window = Math.abs(edge) >= 1 ? 0 : bessel0(beta * Math.sqrt(1 - edge * edge)) / bessel0(beta);
      const sinc = x === 0 ? 1 : kernels.sin(Math.PI * x) / (Math.PI * x);
      table.f32[k * phases + phase] = sinc * window;
    }
  return table;
}

let eightfold: Buffer | undefined;
let fourfold: Buffer | undefined;

/** Address of the limiter's eightfold interpolator. What it misses between its points is less than 0.17 dB. Made once a thread. */
export function finePeakTaps(): number {
  eightfold ??= interpolator(8, 40);
  return eightfold.ptr;
}

/** The fourfold interpolator by its symmetry, as kernels/assembly/steadypeak.ts has it: for each k < 16 the even and the odd part of the quarter phases, and the half phase. */
function mirrored(): Buffer {
  const whole = interpolator(4, 60);
  const table = new Buffer((TAPS / 2) * 3 * 4);
  const at = (k: number, phase: number) => whole.f32[k * 4 + phase];
  for (let k = 0; k < TAPS / 2; k++)
    table.f32.set([(at(k, 1) + at(k, 3)) / 2, (at(k, 1) - at(k, 3)) / 2, at(k, 2)], 3 * k);
  whole.release();
  return table;
}

/** Address of the meter's fourfold interpolator: with a parabola through its largest values it reads tones up to 0.45 of the rate within 0.03 dB. */
export function steadyPeakTaps(): number {
  fourfold ??= mirrored();
  return fourfold.ptr;
}

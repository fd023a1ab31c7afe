// Windows for filters and transforms. Formulas: A. V. Oppenheim, R. W. Schafer, "Discrete-Time Signal Processing", sections 7.5 and 10.2.
import { kernels } from "../kernels/instance";

/** Modified Bessel function of the first kind, order 0, by its power series. */
export function bessel0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** Shape of the Kaiser window for a stop band that many dB down (50 dB or more). */
export function kaiserBeta(attenuationDb: number): number {
  return 0.1102 * (attenuationDb - 8.7);
}

/** Kaiser window of `count` points, symmetric. */
export function kaiser(count: number, attenuationDb: number): Float64Array {
  const beta = kaiserBeta(attenuationDb);
  const scale = 1 / bessel0(beta);
  return Float64Array.from({ length: count }, (_, i) => {
    const x = (2 * i) / (count - 1) - 1;
    return bessel0(beta * Math.sqrt(Math.max(0, 1 - x * x))) * scale;
  });
}

/** Periodic Hann window of n points: shifted by n/4 its squares add up to 1.5. */
export function hann(n: number): Float64Array {
  return Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * kernels.cos((2 * Math.PI * i) / n));
}

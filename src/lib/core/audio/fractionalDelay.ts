// Filters for reading between samples: a Farrow structure (C. W. Farrow, "A continuously variable digital delay element", IEEE ISCAS 1988) of 12
// taps and powers up to five. Taps of all powers are one weighted least-squares fit of ideal delays: T. I. Laakso et al., "Splitting the unit
// delay", IEEE Signal Processing Magazine 13 (1996). The error is below -82 dB up to 12 kHz of 44.1 kHz.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { solve } from "./linearSystem";

/** Pairs of taps around the middle, for each power; the kernel is written for these. */
const PAIRS = [6, 6, 6, 5, 5, 3];
/** How far the way to be read goes from the middle of the taps, samples: kernels/assembly/modulation.ts. */
const FAR = 0.55;
/** Radians a sample: the band that is fitted, 12 kHz of 44.1 kHz, and up to 19 kHz what is fitted with a millionth of the weight. */
const BAND = (2 * Math.PI * 12000) / 44100;
const BEYOND = (2 * Math.PI * 19000) / 44100;
const WEIGHT = 1e-6;
/** Points of the fit: frequencies up to BEYOND, and ways between samples. */
const FREQUENCIES = 96;
const WAYS = 16;

/** Frames before and after the point that is read. */
export const READ_MARGIN = PAIRS[0];

let table: Buffer | undefined;

interface Tap {
  readonly power: number;
  readonly pair: number;
}

/**
 * The even powers' taps, or the odd ones', which have only to give the cosine or the sine of the way: a symmetric or an antisymmetric filter
 * gives nothing else. Powers are of twice the way.
 */
function fit(taps: readonly Tap[], wave: (x: number) => number): Float64Array {
  const n = taps.length;
  const matrix = new Float64Array(n * n);
  const wanted = new Float64Array(n);
  for (let a = 0; a < FREQUENCIES; a++) {
    const omega = ((a + 0.5) / FREQUENCIES) * BEYOND;
    const weight = omega < BAND ? 1 : WEIGHT;
    for (let c = 0; c < WAYS; c++) {
      // Chebyshev's points of the half that is not the other one mirrored.
      const way = FAR * kernels.cos((Math.PI * (c + 0.5)) / (2 * WAYS));
      const row = taps.map(({ power, pair }) => (2 * way) ** power * 2 * wave(omega * (pair + 0.5)));
      for (let i = 0; i < n; i++) {
        wanted[i] += weight * row[i] * wave(omega * way);
        for (let k = 0; k < n; k++) matrix[i * n + k] += weight * row[i] * row[k];
      }
    }
  }
  solve(matrix, wanted, n);
  return wanted;
}

/** Constant sound stays exactly as it is: the taps of an even power add up to what they should. */
function exactForConstants(taps: readonly Tap[], fitted: Float64Array): void {
  PAIRS.forEach((pairs, power) => {
    const sum = taps.reduce((all, tap, i) => (tap.power === power ? all + fitted[i] : all), 0);
    const excess = (sum - (power === 0 ? 0.5 : 0)) / pairs;
    taps.forEach((tap, i) => {
      if (tap.power === power) fitted[i] -= excess;
    });
  });
}

/**
 * Address of the taps; made once a thread. For each power of the way back from the middle of 12 samples to the point that is read, in samples,
 * its pairs from the middle outwards, each four times over.
 */
export function fractionalDelayTaps(): number {
  if (table) return table.ptr;
  const all: Tap[] = PAIRS.flatMap((pairs, power) =>
    Array.from({ length: pairs }, (_, pair) => ({ power, pair }))
  );
  table = new Buffer(all.length * 16);
  for (const odd of [false, true]) {
    const taps = all.filter(({ power }) => power % 2 === Number(odd));
    const fitted = fit(taps, odd ? kernels.sin : kernels.cos);
    if (!odd) exactForConstants(taps, fitted);
    for (const [i, tap] of taps.entries()) {
      const at = all.indexOf(tap) * 4;
      table.f32.fill(fitted[i] * 2 ** tap.power, at, at + 4);
    }
  }
  return table.ptr;
}

// Bands in which noise is judged: two of the ear's equivalent rectangular bandwidths each (B. R. Glasberg, B. C. J. Moore, Hearing Research 47, 1990).
import { kernels } from "../kernels/instance";

/** Bands are put together into so many parts of the spectrum, each of which can change its level. */
export const PARTS = 3;

/** Place on the scale of bands, one a band. */
function scale(hertz: number): number {
  return (0.5 * 21.4 * kernels.log(1 + 0.00437 * hertz)) / Math.LN10;
}

/** Band of each bin, from 0 without gaps. */
export function bandsOf(bins: number, hertzPerBin: number): Int32Array {
  let [band, last] = [-1, -1];
  return Int32Array.from({ length: bins }, (_, k) => {
    const at = Math.floor(scale(k * hertzPerBin));
    if (at !== last) {
      band++;
      last = at;
    }
    return band;
  });
}

/** First band of each part, and behind the last one the number of bands. */
export function partEdges(bands: number): number[] {
  return Array.from({ length: PARTS + 1 }, (_, p) => Math.ceil((p * bands) / PARTS));
}

/** How far each bin takes part in each part: wholly in its middle, and less and less towards the next one's. */
export function partShares(bins: number, hertzPerBin: number): Float32Array[] {
  const top = scale((bins - 1) * hertzPerBin);
  return Array.from({ length: PARTS }, (_, p) =>
    Float32Array.from({ length: bins }, (_, k) => {
      const place = (scale(k * hertzPerBin) / top) * PARTS - 0.5;
      return Math.max(0, 1 - Math.abs(Math.min(PARTS - 1, Math.max(0, place)) - p));
    })
  );
}

/** Factor of the power in a bin by offsets of the parts, in dB; sign -1: the inverse. */
export function powerFactor(
  shares: readonly Float32Array[],
  bin: number,
  offsets: readonly number[],
  sign: 1 | -1
): number {
  let offset = 0;
  for (let p = 0; p < shares.length; p++) offset += shares[p][bin] * offsets[p];
  return kernels.exp((sign * offset * Math.LN10) / 10);
}

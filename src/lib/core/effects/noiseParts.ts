// Noise that speech covers in its own bands: where it is known all the same, and what it may be elsewhere. In a passage without pauses hardly
// any moment is at the floor in most bands; but hiss lies bare above the voice, and rumble below it. Elsewhere the floor is speech's as often as
// the noise's. Noise of rooms and devices has no steps in its spectrum, so what is known bounds the rest. Thresholds: found by trial on read speech.
import { kernels } from "../kernels/instance";

/** Where so many neighbouring bands are at their floors for such a share of the time, there is noise. */
const LEAST_BANDS = 2;
const KNOWN_SHARE = 0.33;
/** Further below the loudest band than that it is the recording's own; nearer to it a held vowel may have such a floor. */
const KNOWN_REACH_DB = [-50, -25] as const;
/** Where noise is found in all bands, these have the noise's floor and no other: at it for such a share of the time, or seldom but then in so many more moments than a little above it. */
const TRUSTED_SHARE = 0.4;
const SELDOM_SHARE = 0.2;
const SELDOM_CROWDED = 5;
/** Further below the loudest band the spectrum was cut: that bounds nothing. */
const TRUSTED_REACH_DB = -60;
/** Below the lowest band that knows it noise rises by this power of the frequency at least and at most, where it is only supposed. */
const SUPPOSED_SLOPES = [0.5, 1] as const;
/** And where it is bounded by so much more than it does in the bands that know it, but no more than that. */
const STEEPER = 0.5;
const MOST_SLOPE = 3;
/** So much of what is supposed is taken for granted, in power. */
const GRANTED = 0.5;

/** Rumble lies in these lowest bands, up to 120 Hz, where few bins make its level waver: at their floors for such a share of the time together. */
const RUMBLE_BANDS = 2;
const RUMBLE_SHARES = 0.65;
const RUMBLE_REACH_DB = [-45, -12] as const;
/** Air of a room falls as steeply above its rumble. */
const RUMBLE_SLOPE = 3;

/** What was seen in each band. */
export interface Seen {
  /** Share of the moments that lie at its floor. */
  readonly shares: readonly number[];
  /** How many more moments lie at its floor than a little above it. */
  readonly crowding: readonly number[];
  /** In dB. */
  readonly floors: readonly number[];
  /** Level of the loudest band, in dB. */
  readonly loudest: number;
}

/** Bands in which noise is known though it is covered in most. */
export function knownBands({ shares, floors, loudest }: Seen): number[] {
  const [lowest, highest] = KNOWN_REACH_DB.map((reach) => loudest + reach);
  const known = shares.map((share, b) => share >= KNOWN_SHARE && floors[b] > lowest && floors[b] < highest);
  const runFrom = (b: number, step: 1 | -1): number => (known[b] ? 1 + runFrom(b + step, step) : 0);
  const found = shares.flatMap((_, b) => (runFrom(b, 1) + runFrom(b, -1) > LEAST_BANDS ? [b] : []));
  return found.length > 0 ? found : rumbleBands({ shares, floors, loudest });
}

/** The bands below voices, where nothing but rumble is known. */
function rumbleBands({ shares, floors, loudest }: Pick<Seen, "shares" | "floors" | "loudest">): number[] {
  const [lowest, highest] = RUMBLE_REACH_DB.map((reach) => loudest + reach);
  const low = [...floors.keys()].slice(0, RUMBLE_BANDS);
  const steady = low.every((b) => floors[b] > lowest && floors[b] < highest);
  return steady && low.reduce((sum, b) => sum + shares[b], 0) >= RUMBLE_SHARES ? low : [];
}

/** Bands whose floor is the noise's for certain, where it was found in all. */
export function trustedBands({ shares, crowding, floors, loudest }: Seen): number[] {
  return shares.flatMap((share, b) => {
    const often = share >= TRUSTED_SHARE || (share >= SELDOM_SHARE && crowding[b] >= SELDOM_CROWDED);
    return often && floors[b] > loudest + TRUSTED_REACH_DB ? [b] : [];
  });
}

/** Power of the noise in each bin, of which it is known in some bands. */
export interface PartlyKnown {
  readonly mean: Float64Array;
  /** Ascending. */
  readonly known: readonly number[];
  /** Band of each bin, and the bins of each band. */
  readonly bands: Int32Array;
  readonly widths: Float64Array;
}

/** The bands' power densities, and their middles: logarithms. */
interface Densities {
  readonly level: Float64Array;
  readonly place: Float64Array;
}

function densities({ mean, bands, widths }: PartlyKnown): Densities {
  const sums = new Float64Array(widths.length);
  mean.forEach((p, k) => (sums[bands[k]] += p));
  const level = sums.map((sum, b) => kernels.log(sum / widths[b] + 1e-30));
  const place = widths.map((width, b) => kernels.log(bands.indexOf(b) + width / 2));
  return { level, place };
}

/** By which power of the frequency the noise falls in the bands that know it: least squares. */
function measuredSlope(known: readonly number[], { level, place }: Densities): number {
  const [u, v] = [place, level].map((of) => known.reduce((sum, b) => sum + of[b], 0) / known.length);
  const across = known.reduce((sum, b) => sum + (place[b] - u) * (level[b] - v), 0);
  const along = known.reduce((sum, b) => sum + (place[b] - u) ** 2, 0);
  return along > 0 ? -across / along : 0;
}

/**
 * The noise in each band by those that know it: between them as they go over into each other, below them by a slope that is made from the one that
 * they show, above them no more, or less by a slope.
 */
function likely(
  known: readonly number[],
  seen: Densities,
  slopeOf: (measured: number) => number,
  fall = 0
): Float64Array {
  const { level, place } = seen;
  const slope = slopeOf(measuredSlope(known, seen));
  return level.map((_, b) => {
    const above = known.find((one) => one >= b) ?? known[known.length - 1];
    const below = known.findLast((one) => one <= b);
    if (below === undefined) return level[above] + slope * (place[above] - place[b]);
    if (above <= below) return level[below] - fall * (place[b] - place[below]);
    const share = (place[b] - place[below]) / (place[above] - place[below]);
    return level[below] + share * (level[above] - level[below]);
  });
}

/** Puts into the bands in which noise is covered what it is at least likely to be there. Changes `mean`. */
export function spread(noise: PartlyKnown): void {
  const { mean, known, bands } = noise;
  const [least, most] = SUPPOSED_SLOPES;
  const fall = known.every((b) => b < RUMBLE_BANDS) ? RUMBLE_SLOPE : 0;
  const levels = likely(known, densities(noise), (s) => Math.min(most, Math.max(least, s)), fall);
  mean.forEach((_, k) => {
    if (!known.includes(bands[k])) mean[k] = GRANTED * kernels.exp(levels[bands[k]]);
  });
}

/** Takes out of the bands in which speech may have been taken for noise what exceeds the noise that is known elsewhere. Changes `mean`. */
export function cap(noise: PartlyKnown): void {
  const { mean, known, bands } = noise;
  if (known.length < LEAST_BANDS) return;
  const seen = densities(noise);
  const levels = likely(known, seen, (s) => Math.min(MOST_SLOPE, Math.max(0, s) + STEEPER));
  const factors = seen.level.map((level, b) =>
    known.includes(b) ? 1 : kernels.exp(Math.min(0, levels[b] - level))
  );
  mean.forEach((p, k) => (mean[k] = p * factors[bands[k]]));
}

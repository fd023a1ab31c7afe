// How the level of speech is ridden: as a hand on a fader does, over seconds, from what is said alone. Pauses do not come up.
import { percentile } from "../audio/statistics";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";

/** Values a second of what it works on: momentary loudness (EBU Tech 3341) ten times a second. */
export const RIDE_RATE = 10;
/** Speech lies above the loudest within this time to both sides by no less than this, and above the quiet of the whole by that. */
const NEAR_SECONDS = 1.5;
const UNDER_TOP_DB = 14;
const OVER_QUIET_DB = 10;
const QUIET_PERCENTILE = 0.05;
/** Where there are no pauses the quietest is speech: what is not far under the louder quarter counts always. */
const LOUD_PERCENTILE = 0.75;
const UNDER_LOUD_DB = 8;
const LEAST_LUFS = -60;
/** Pauses from this length on keep the smaller gain of their sides, and longer ones are never raised. */
const PAUSE_SECONDS = 0.3;
const LONG_PAUSE_SECONDS = 0.6;
const SMOOTH_SECONDS = 0.08;

export interface Ride {
  /** LUFS towards which it goes; undefined: the mean of what is said. */
  readonly target: number | undefined;
  /** Most that is given or taken, dB. */
  readonly mostDb: number;
  /** Seconds over which loudness is averaged. */
  readonly seconds: number;
}

const power = (db: number) => kernels.exp((db * Math.LN10) / 10);
const level = (p: number) => powerToDb(Math.max(1e-12, p));

/** Averages with a Gaussian of a standard deviation in values; what lies beyond the ends is as at the ends, or nothing. */
function gaussian(x: Float64Array, deviation: number, ends: "held" | "nothing"): Float64Array {
  const reach = Math.ceil(4 * deviation);
  const weights = Float64Array.from({ length: 2 * reach + 1 }, (_, i) =>
    kernels.exp(-0.5 * ((i - reach) / deviation) ** 2)
  );
  const sum = weights.reduce((a, b) => a + b, 0);
  return x.map((_, i) => {
    let all = 0;
    for (let k = -reach; k <= reach; k++) {
      const at = i + k;
      const inside = at >= 0 && at < x.length;
      const value = inside ? x[at] : ends === "held" ? x[at < 0 ? 0 : x.length - 1] : 0;
      all += (weights[k + reach] * value) / sum;
    }
    return all;
  });
}

/** Where something is said. */
function spoken(loudness: Float64Array): boolean[] {
  const gate = Math.min(
    percentile(loudness, QUIET_PERCENTILE) + OVER_QUIET_DB,
    percentile(loudness, LOUD_PERCENTILE) - UNDER_LOUD_DB
  );
  const near = Math.round(NEAR_SECONDS * RIDE_RATE);
  return Array.from(loudness, (l, i) => {
    let top = -Infinity;
    for (let k = Math.max(0, i - near); k <= Math.min(loudness.length - 1, i + near); k++)
      top = Math.max(top, loudness[k]);
    return l > top - UNDER_TOP_DB && l > gate && l > LEAST_LUFS;
  });
}

/** Gains where nothing is said: straight between their sides; in pauses the smaller one. */
function bridged(gains: Float64Array, speech: readonly boolean[]): Float64Array {
  const out = gains.slice();
  for (let i = 0; i < out.length;) {
    if (speech[i]) {
      i++;
      continue;
    }
    let end = i;
    while (end < out.length && !speech[end]) end++;
    const before = i > 0 ? gains[i - 1] : gains[end];
    const after = end < out.length ? gains[end] : gains[i - 1];
    const seconds = (end - i) / RIDE_RATE;
    const most = Math.min(before, after, seconds > LONG_PAUSE_SECONDS ? 0 : Infinity);
    for (let k = i; k < end; k++) {
      const straight = before + ((after - before) * (k - i + 1)) / (end - i + 1);
      out[k] = seconds > PAUSE_SECONDS ? Math.min(straight, most) : straight;
    }
    i = end;
  }
  return out;
}

/**
 * Gains in dB for the middles of the windows of momentary loudness.
 * @param loudness LUFS, ten values a second
 * @returns undefined when nothing is said
 */
export function rideGains(
  loudness: Float64Array,
  { target, mostDb, seconds }: Ride
): Float64Array | undefined {
  const speech = spoken(loudness);
  const count = speech.filter(Boolean).length;
  if (count === 0) return undefined;
  const energy = loudness.map((l, i) => (speech[i] ? power(l) : 0));
  const deviation = (seconds * RIDE_RATE) / 2;
  const near = gaussian(energy, deviation, "nothing");
  const share = gaussian(
    Float64Array.from(speech, (s) => Number(s)),
    deviation,
    "nothing"
  );
  const wanted = target ?? level(energy.reduce((a, b) => a + b, 0) / count);
  const gains = near.map((e, i) =>
    speech[i] ? Math.max(-mostDb, Math.min(mostDb, wanted - level(e / Math.max(1e-6, share[i])))) : 0
  );
  return gaussian(bridged(gains, speech), Math.max(0.5, SMOOTH_SECONDS * RIDE_RATE), "held");
}

// Where two clips meet best: where it is quiet, their waveforms match, and nothing begins.
import { powerToDb } from "../units/decibels";
import type { Stereo } from "./clipSound";
import { onsets } from "./onsets";
import { correlation, meanPower } from "./similarity";

/** A crossfade before an onset needs this much room, milliseconds: what comes in must be there when it begins. */
const ROOM_MS = 5;
/** Decibels of level that a perfect match is worth; own choice: what two strangers lose in the middle of an equal-power fade is 3, what they may gain 3, and a match is heard as no join at all. */
const MATCH_DB = 12;
/** Coarse steps, as a share of the crossfade. */
const STEPS = 16;
const FLOOR_DB = -90;

export interface BestPlace {
  /** Frames by which the join is to be moved. */
  readonly by: number;
  readonly correlation: number;
  /** Mean level of both there, dBFS. */
  readonly levelDb: number;
}

/**
 * Looks for the best place of a crossfade within two stretches of sound that lie at the same time.
 * @param middle frame of the stretches at which the crossfade's middle lies now
 * @param length of the crossfade
 * @param reach frames to both sides; the stretches hold at least middle ± (reach + length)
 * @returns undefined when something begins everywhere
 */
export function bestPlace(
  left: Stereo,
  right: Stereo,
  sampleRate: number,
  middle: number,
  length: number,
  reach: number
): BestPlace | undefined {
  const room = Math.round((ROOM_MS / 1000) * sampleRate);
  const half = Math.ceil(length / 2);
  const forbidden = [...onsets(left, sampleRate), ...onsets(right, sampleRate)];
  const free = (place: number) =>
    !forbidden.some(({ from, to }) => place + half + room > from && place - half < to);
  const cost = (place: number) => {
    const level = Math.max(FLOOR_DB, powerToDb(meanPower(left, right, place - half, place + half)));
    return level - MATCH_DB * correlation(left, right, place - half, place + half);
  };
  let best: { place: number; cost: number } | undefined;
  const look = (place: number) => {
    if (Math.abs(place - middle) > reach || place - half < 0 || place + half > left.left.length) return;
    if (!free(place)) return;
    const value = cost(place);
    // Of equally good ones the nearest.
    const nearer = best && Math.abs(place - middle) < Math.abs(best.place - middle);
    if (!best || value < best.cost - 1e-9 || (value < best.cost + 1e-9 && nearer))
      best = { place, cost: value };
  };
  const coarse = Math.max(1, Math.floor(length / STEPS));
  look(middle);
  for (let d = coarse; d <= reach; d += coarse) {
    look(middle - d);
    look(middle + d);
  }
  for (let step = coarse >> 1; best && step >= 1; step >>= 1)
    for (const place of [best.place - step, best.place + step]) look(place);
  if (!best) return undefined;
  const { place } = best;
  return {
    by: place - middle,
    correlation: correlation(left, right, place - half, place + half),
    levelDb: powerToDb(meanPower(left, right, place - half, place + half))
  };
}

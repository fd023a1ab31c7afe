// Where notes and words begin.
import { powerToDb } from "../units/decibels";
import type { Stereo } from "./clipSound";

/** Frames of levels, milliseconds; how many before one it is compared with. */
const STEP_MS = 2.5;
const BEFORE = 8;
/** A level that rises by so much over the mean of those before begins something; own measurement on read sentences and plucked strings. */
const RISE_DB = 9;
/** Nothing that is so far below the loudest of the stretch counts. */
const DEPTH_DB = 36;
const FLOOR_DB = -66;

/** Stretches of a sound, in frames from its start, in which something begins. */
export function onsets({ left, right }: Stereo, sampleRate: number): { from: number; to: number }[] {
  const step = Math.max(1, Math.round((STEP_MS / 1000) * sampleRate));
  const levels: number[] = [];
  for (let at = 0; at + step <= left.length; at += step) {
    let sum = 0;
    for (let i = at; i < at + step; i++) sum += (left[i] ?? 0) ** 2 + (right[i] ?? 0) ** 2;
    levels.push(powerToDb(sum / (2 * step)));
  }
  const loudest = levels.reduce((most, level) => Math.max(most, level), -Infinity);
  const least = Math.max(FLOOR_DB, loudest - DEPTH_DB);
  const out: { from: number; to: number }[] = [];
  for (let i = BEFORE; i < levels.length; i++) {
    const level = levels[i] ?? -Infinity;
    if (level < least) continue;
    const before = levels.slice(i - BEFORE, i).map((db) => Math.max(db, FLOOR_DB - 20));
    const mean = before.reduce((sum, db) => sum + db, 0) / BEFORE;
    if (level - mean < RISE_DB) continue;
    const from = (i - 1) * step;
    const last = out.at(-1);
    if (last && from <= last.to + step) last.to = (i + 1) * step;
    else out.push({ from, to: (i + 1) * step });
  }
  return out;
}

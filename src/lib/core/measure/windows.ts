// What a sound is too short for: a window that was never full has no value.
import { MOMENTARY, SHORT_TERM, STEPS_PER_SECOND } from "./loudness";
import type { Measurement } from "./meter";

const MOMENTARY_SECONDS = MOMENTARY / STEPS_PER_SECOND;
const SHORT_TERM_SECONDS = SHORT_TERM / STEPS_PER_SECOND;

const NEED_SHORT_TERM: readonly (keyof Measurement)[] = ["shortTermMaxLufs", "loudnessRangeLu"];
const NEED_MOMENTARY: readonly (keyof Measurement)[] = [
  "integratedLufs",
  "momentaryMaxLufs",
  "noiseFloorDbfs"
];

/** Whether a sound of so many seconds fills the window of a measure. */
export function fillsWindow(key: keyof Measurement, seconds: number): boolean {
  if (NEED_SHORT_TERM.includes(key)) return seconds >= SHORT_TERM_SECONDS;
  return !NEED_MOMENTARY.includes(key) || seconds >= MOMENTARY_SECONDS;
}

/** Why values are missing, in a sentence; undefined when none are. */
export function tooShort(seconds: number): string | undefined {
  if (seconds < MOMENTARY_SECONDS) return "Shorter than 400 ms: it has no loudness and no noise floor.";
  if (seconds < SHORT_TERM_SECONDS)
    return "Shorter than 3 s: it has no short-term loudness and no loudness range.";
  return undefined;
}

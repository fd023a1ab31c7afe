// The gain with which a file is delivered.
import { normalizeGain } from "../effects/normalize";
import type { Measurement } from "../measure/meter";
import type { DeliverySettings } from "./settings";

/** How often a file is written at most until its level and its ceiling hold. */
export const MOST_ROUNDS = 6;
/** A peak may pass its ceiling by this: what the measure itself errs by. */
export const CEILING_SLACK_DB = 0.005;
/** Below the ceiling by so much after a correction: a coder's overshoot moves a little with the level. */
const UNDER_DB = 0.02;
/** A level may be missed by this. */
const LEVEL_SLACK_DB = 0.1;

/**
 * Gain for a sound that was measured before, in dB. The ceiling limits it: where a level and a ceiling ask for different gains, the ceiling wins.
 * 0 for silence, which no gain brings to a level.
 */
export function deliveryGain(
  measured: Measurement,
  { level, ceilingDbtp }: Pick<DeliverySettings, "level" | "ceilingDbtp">
): number {
  const ceiling = ceilingDbtp ?? Infinity;
  if (!Number.isFinite(measured.truePeakDbtp)) return 0;
  const wanted =
    level && Number.isFinite(measured[KEYS[level.of]])
      ? normalizeGain(measured, level.of, level.to, ceiling)
      : 0;
  return Math.min(wanted, ceiling - measured.truePeakDbtp);
}

const KEYS = {
  integrated: "integratedLufs",
  "true-peak": "truePeakDbtp",
  peak: "samplePeakDbfs"
} as const satisfies Record<string, keyof Measurement>;

/**
 * What is added to the gain after the written file was measured, in dB; 0: it is as it should be. Lowers where coding raised the true peak over
 * the ceiling; raises where it took level away and the ceiling leaves room.
 */
export function correction(
  written: Measurement,
  { level, ceilingDbtp }: Pick<DeliverySettings, "level" | "ceilingDbtp">
): number {
  const room = (ceilingDbtp ?? Infinity) - written.truePeakDbtp;
  if (room < -CEILING_SLACK_DB) return room - UNDER_DB;
  if (!level || !Number.isFinite(written[KEYS[level.of]])) return 0;
  const wanted = Math.min(level.to - written[KEYS[level.of]], room - UNDER_DB);
  return Math.abs(wanted) > LEVEL_SLACK_DB ? wanted : 0;
}

/** By how much a level was missed because the ceiling came first, in dB; 0 where it was not. */
export function shortfall(written: Measurement, { level }: Pick<DeliverySettings, "level">): number {
  if (!level || !Number.isFinite(written[KEYS[level.of]])) return 0;
  const missing = level.to - written[KEYS[level.of]];
  return missing > LEVEL_SLACK_DB ? missing : 0;
}

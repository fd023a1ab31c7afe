// The gain with which a file is delivered.
import { normalizeGain } from "../effects/normalize";
import type { Measurement } from "../measure/meter";
import type { DeliverySettings } from "./settings";

/** How often a file is coded again because its true peak passes the ceiling. */
export const MOST_ROUNDS = 6;
/** A peak may pass its ceiling by this: what the measure itself errs by. */
export const CEILING_SLACK_DB = 0.005;
/** Below the ceiling by so much after a correction: a coder's overshoot moves a little with the level. */
const UNDER_DB = 0.02;

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

/** By how much the gain must be lowered after the written file was measured, in dB; 0: the ceiling holds. */
export function correction(truePeakDbtp: number, ceilingDbtp: number | null): number {
  if (ceilingDbtp === null) return 0;
  const over = truePeakDbtp - ceilingDbtp;
  return over > CEILING_SLACK_DB ? over + UNDER_DB : 0;
}

import { channelWeights } from "../measure/channelWeights";
import { Meter, type Measurement } from "../measure/meter";
import { dbToGain, formatDb } from "../units/decibels";
import { kernels } from "../kernels/instance";
import { choice, num, type EffectDescription } from "./description";
import { choiceParam, numberParam } from "./params";

/** What sound can be brought to a level of: the choice's value, its unit, and where it stands in a measurement. */
export const NORMALIZE_TARGETS = {
  integrated: { label: "Integrated loudness", unit: "LUFS", key: "integratedLufs" },
  "momentary-max": { label: "Largest momentary loudness", unit: "LUFS", key: "momentaryMaxLufs" },
  "short-term-max": { label: "Largest short-term loudness", unit: "LUFS", key: "shortTermMaxLufs" },
  peak: { label: "Sample peak", unit: "dBFS", key: "samplePeakDbfs" },
  "true-peak": { label: "True peak", unit: "dBTP", key: "truePeakDbtp" },
  rms: { label: "RMS", unit: "dBFS", key: "rmsDbfs" }
} as const satisfies Record<string, { label: string; unit: string; key: keyof Measurement }>;

export type NormalizeTarget = keyof typeof NORMALIZE_TARGETS;

/**
 * Gain in dB that brings measured sound to a level of a target, but its true peak no higher than a ceiling (dBTP).
 * 0 for sound that is silent by that measure.
 */
export function normalizeGain(
  measured: Measurement,
  target: NormalizeTarget,
  level: number,
  ceiling = Infinity
): number {
  const now = measured[NORMALIZE_TARGETS[target].key];
  if (!Number.isFinite(now)) return 0;
  return Math.min(level - now, ceiling - measured.truePeakDbtp);
}

const CEILING_OFF = 20;

export const normalize: EffectDescription = {
  id: "normalize",
  name: "Normalize",
  group: "whole",
  help: "Brings the whole clip to a loudness or a peak by one gain.",
  keywords: ["level", "loudness", "peak", "gain", "lufs"],
  params: [
    choiceParam(
      "target",
      "Measure",
      Object.entries(NORMALIZE_TARGETS).map(([value, { label }]) => [value, label] as const),
      "What is brought to the level (ITU-R BS.1770, EBU R 128)."
    ),
    numberParam(
      ["levelDb", "Level", "dB", -60, 0, -16, 1, 0.5],
      "LUFS for loudness, dBTP for true peak, dBFS for sample peak and RMS."
    ),
    numberParam(
      ["ceilingDb", "Ceiling", "dB", -60, CEILING_OFF, CEILING_OFF, 1, 0.5],
      "The gain stops where the true peak would pass this.",
      "linear",
      CEILING_OFF
    )
  ],
  presets: [
    { name: "Speech for the web, peaks at -1 dB", params: { target: "peak", levelDb: -1 } },
    { name: "Streaming, -14 LUFS", params: { target: "integrated", levelDb: -14, ceilingDb: -1 } },
    { name: "Broadcast, -23 LUFS (EBU R 128)", params: { target: "integrated", levelDb: -23, ceilingDb: -1 } }
  ],
  summary(params) {
    const { unit } = NORMALIZE_TARGETS[choice(params, "target") as NormalizeTarget];
    return `to ${formatDb(num(params, "levelDb"))} ${unit}`;
  },
  latency: () => 0,
  settle: () => 0,
  learn(params, sampleRate, { channels }) {
    const meter = new Meter(sampleRate, { weights: channelWeights(channels) });
    return {
      push: (l, r, n) => meter.push(l, r, n),
      finish() {
        const ceiling = num(params, "ceilingDb");
        const target = choice(params, "target") as NormalizeTarget;
        const measured = meter.result();
        const gainDb = normalizeGain(
          measured,
          target,
          num(params, "levelDb"),
          ceiling >= CEILING_OFF ? Infinity : ceiling
        );
        const level = measured[NORMALIZE_TARGETS[target].key];
        return { values: { gainDb, level: Number.isFinite(level) ? level : "none" } };
      },
      release: () => meter.release()
    };
  },
  found: ({ gainDb, level }) =>
    level === "none"
      ? "The sound has no such level, since it is silent or too short to have one: it stays as it is."
      : `Gain ${formatDb(Number(gainDb), 2, true)} dB.`,
  create(_params, _sampleRate, { learnt }) {
    const factor = dbToGain(Number(learnt?.values.gainDb ?? 0));
    return {
      process(l, r, n) {
        kernels.gain(l, n, factor);
        kernels.gain(r, n, factor);
      },
      release: () => undefined
    };
  }
};

import { kernels } from "../kernels/instance";
import { formatDb } from "../units/decibels";
import { num, type EffectDescription, type Params } from "./description";
import { gateLatency, GateProcessor, gateSettle, type GateSettings } from "./gateProcessor";
import { mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

function settings(params: Params): GateSettings {
  return {
    thresholdDb: num(params, "thresholdDb"),
    slope: num(params, "ratio") - 1,
    kneeDb: num(params, "kneeDb"),
    rangeDb: -num(params, "rangeDb"),
    attackSeconds: num(params, "attackMs") / 1000,
    holdSeconds: num(params, "holdMs") / 1000,
    releaseSeconds: num(params, "releaseMs") / 1000,
    hysteresisDb: 0,
    lookAheadSeconds: num(params, "lookAheadMs") / 1000
  };
}

/** Gain in dB of the static curve for a level in dBFS. */
export function expanderGain(level: number, params: Params): number {
  const s = settings(params);
  return kernels.expanderCurve(level, s.thresholdDb, s.slope, s.rangeDb, s.kneeDb);
}

export const expander: EffectDescription = {
  id: "expander",
  name: "Expander",
  group: "dynamics",
  help: "Turns down what is quiet, so that room and noise fall back.",
  keywords: ["dynamics", "quieter", "noise", "room", "bleed"],
  params: [
    numberParam(
      ["thresholdDb", "Threshold", "dB", -90, 0, -45, 1, 0.5],
      "Level under which the gain is turned down."
    ),
    numberParam(
      ["ratio", "Ratio", ":1", 1, 20, 2, 1, 0.1],
      "How many dB less come out for each dB less.",
      "log"
    ),
    numberParam(["kneeDb", "Knee", "dB", 0, 30, 6, 1, 0.5], "Width of the bend around the threshold."),
    numberParam(["rangeDb", "Range", "dB", 0, 100, 20, 1, 1], "The most that is taken away."),
    numberParam(
      ["attackMs", "Attack", "ms", 0, 200, 5, 1, 1],
      "Time in which 63 % of a gain comes back when the sound rises."
    ),
    numberParam(
      ["holdMs", "Hold", "ms", 0, 2000, 50, 0, 5],
      "How long the gain stays up after the level has fallen."
    ),
    numberParam(
      ["releaseMs", "Release", "ms", 1, 5000, 150, 0, 5],
      "Time in which 63 % of a reduction is reached, after the hold. The level that is watched keeps a peak for 10 ms, then falls by 8.7 dB in 5 ms.",
      "log"
    ),
    numberParam(["lookAheadMs", "Look-ahead", "ms", 0, 20, 2, 1, 0.5], "How far the detector hears ahead."),
    mixParam()
  ],
  presets: [
    { name: "Quieter room", params: { thresholdDb: -42, ratio: 1.8, rangeDb: 12, releaseMs: 250 } },
    { name: "Between words", params: { thresholdDb: -38, ratio: 3, rangeDb: 18, holdMs: 80, releaseMs: 200 } }
  ],
  summary: (params) => `${formatDb(num(params, "thresholdDb"))} dB, 1:${num(params, "ratio").toFixed(1)}`,
  latency: gateLatency,
  settle: (params, sampleRate) => gateSettle(settings(params), sampleRate),
  create: (params, sampleRate) =>
    withMix(
      new GateProcessor(settings(params), sampleRate),
      gateLatency(sampleRate),
      num(params, "mixPercent")
    )
};

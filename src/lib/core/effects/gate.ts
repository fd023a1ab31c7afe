import { formatDb } from "../units/decibels";
import { num, type EffectDescription, type Params } from "./description";
import { gateLatency, GateProcessor, gateSettle, type GateSettings } from "./gateProcessor";
import { numberParam } from "./params";

/** A gate is an expander so steep that its range is reached within a tenth of a dB. */
const STEEP = 1000;

function settings(params: Params): GateSettings {
  return {
    thresholdDb: num(params, "thresholdDb"),
    slope: STEEP,
    kneeDb: 0,
    rangeDb: -num(params, "rangeDb"),
    attackSeconds: num(params, "attackMs") / 1000,
    holdSeconds: num(params, "holdMs") / 1000,
    releaseSeconds: num(params, "releaseMs") / 1000,
    hysteresisDb: num(params, "hysteresisDb"),
    lookAheadSeconds: num(params, "lookAheadMs") / 1000
  };
}

export const gate: EffectDescription = {
  id: "gate",
  name: "Gate",
  group: "dynamics",
  help: "Closes under the threshold: silence between the words.",
  keywords: ["dynamics", "noise", "silence", "mute", "bleed"],
  params: [
    numberParam(["thresholdDb", "Threshold", "dB", -90, 0, -45, 1, 0.5], "Level at which the gate opens."),
    numberParam(
      ["hysteresisDb", "Hysteresis", "dB", 0, 24, 4, 1, 0.5],
      "How far below the threshold it closes again."
    ),
    numberParam(["rangeDb", "Range", "dB", 0, 100, 60, 1, 1], "What is taken away while it is closed."),
    numberParam(["attackMs", "Attack", "ms", 0, 200, 1, 1, 1], "Time in which 63 % of the opening is done."),
    numberParam(
      ["holdMs", "Hold", "ms", 0, 2000, 80, 0, 5],
      "How long it stays open after the level has fallen."
    ),
    numberParam(
      ["releaseMs", "Release", "ms", 1, 5000, 120, 0, 5],
      "Time in which 63 % of the closing is done, after the hold. The level that is watched keeps a peak for 10 ms, then falls by 8.7 dB in 5 ms.",
      "log"
    ),
    numberParam(
      ["lookAheadMs", "Look-ahead", "ms", 0, 20, 5, 1, 0.5],
      "Opens that much before the sound, so that nothing of its beginning is lost."
    )
  ],
  presets: [
    {
      name: "Speech",
      params: { thresholdDb: -42, hysteresisDb: 6, rangeDb: 30, holdMs: 150, releaseMs: 200 }
    },
    { name: "Tight", params: { thresholdDb: -30, rangeDb: 80, holdMs: 20, releaseMs: 40 } }
  ],
  summary: (params) => `opens at ${formatDb(num(params, "thresholdDb"))} dB`,
  latency: gateLatency,
  settle: (params, sampleRate) => gateSettle(settings(params), sampleRate),
  create: (params, sampleRate) => new GateProcessor(settings(params), sampleRate)
};

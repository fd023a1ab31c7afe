import { num, type EffectDescription, type Params } from "./description";
import { modulatedDelay, MODULATION_LATENCY, type Modulation } from "./modulatedDelay";
import { mixParam, numberParam } from "./params";

/** How its voices move. params: complete. */
export function chorusModulation(params: Params): Modulation {
  const delaySeconds = num(params, "delayMs") / 1000;
  return {
    delaySeconds,
    depthSeconds: Math.min(delaySeconds, num(params, "depthMs") / 1000),
    rateHz: num(params, "rateHz"),
    voices: num(params, "voices"),
    feedback: 0,
    spreadDegrees: num(params, "spreadDegrees")
  };
}

export const chorus: EffectDescription = {
  id: "chorus",
  name: "Chorus",
  group: "space",
  help: "Several voices that drift slightly apart in time and pitch.",
  keywords: ["thicken", "double", "ensemble", "modulation", "voices"],
  params: [
    numberParam(["voices", "Voices", "", 1, 6, 3, 0, 1], "Number of drifting voices."),
    numberParam(["delayMs", "Delay", "ms", 2, 50, 18, 1, 1], "Middle of the delay of the voices.", "log"),
    numberParam(
      ["depthMs", "Depth", "ms", 0, 20, 3, 2, 0.1],
      "How far the delay moves to both sides, never more than the delay."
    ),
    numberParam(["rateHz", "Rate", "Hz", 0.02, 10, 0.6, 2, 0.1], "Movements a second.", "log"),
    numberParam(
      ["spreadDegrees", "Spread", "°", 0, 180, 90, 0, 5],
      "How far the right side's movement lies after the left's."
    ),
    mixParam(50, "Share of the voices; 0 % is the untreated sound.")
  ],
  presets: [
    { name: "Slow ensemble", params: { voices: 4, rateHz: 0.3, depthMs: 4 } },
    { name: "Light doubling", params: { voices: 2, delayMs: 22, depthMs: 1.5, rateHz: 0.8, mixPercent: 35 } }
  ],
  summary: (params) => `${num(params, "voices")} voices, ${num(params, "rateHz")} Hz`,
  placed: true,
  latency: () => MODULATION_LATENCY,
  settle: (params, sampleRate) => Math.ceil((num(params, "delayMs") / 500) * sampleRate) + 64,
  tail: (params, sampleRate) => Math.ceil((num(params, "delayMs") / 500) * sampleRate),
  widens: (params) => num(params, "spreadDegrees") > 0,
  create: (params, sampleRate, { position, origin = 0 }) =>
    modulatedDelay(chorusModulation(params), sampleRate, origin + position, num(params, "mixPercent"))
};

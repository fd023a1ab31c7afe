import { num, type EffectDescription, type Params } from "./description";
import { modulatedDelay, MODULATION_LATENCY, type Modulation } from "./modulatedDelay";
import { mixParam, numberParam } from "./params";

/** How its voices move. params: complete. */
export function flangerModulation(params: Params): Modulation {
  const depthSeconds = num(params, "depthMs") / 2000;
  return {
    delaySeconds: num(params, "delayMs") / 1000 + depthSeconds,
    depthSeconds,
    rateHz: num(params, "rateHz"),
    voices: 1,
    feedback: num(params, "feedbackPercent") / 100,
    spreadDegrees: num(params, "spreadDegrees")
  };
}

/** Seconds until the feedback has died away by `db`. */
function ring(params: Params, db: number): number {
  const feedback = Math.abs(num(params, "feedbackPercent")) / 100;
  const longest = (num(params, "delayMs") + num(params, "depthMs")) / 1000;
  return longest * (feedback === 0 ? 1 : 1 + Math.ceil(db / (-20 * Math.log10(feedback))));
}

export const flanger: EffectDescription = {
  id: "flanger",
  name: "Flanger",
  group: "space",
  help: "A very short delay that moves: a comb sweeps through the sound.",
  keywords: ["sweep", "jet", "comb", "modulation"],
  params: [
    numberParam(["delayMs", "Delay", "ms", 0.1, 10, 0.5, 2, 0.1], "Least delay.", "log"),
    numberParam(["depthMs", "Depth", "ms", 0, 10, 3, 2, 0.1], "How much longer the delay gets."),
    numberParam(["rateHz", "Rate", "Hz", 0.02, 10, 0.25, 2, 0.05], "Movements a second.", "log"),
    numberParam(
      ["feedbackPercent", "Feedback", "%", -95, 95, 40, 0, 5],
      "How much comes back; below 0 % turned over."
    ),
    numberParam(
      ["spreadDegrees", "Spread", "°", 0, 180, 60, 0, 5],
      "How far the right side's movement lies after the left's."
    ),
    mixParam(50, "Share of the delayed sound; at 50 % the comb is deepest.")
  ],
  presets: [
    { name: "Slow sweep", params: { rateHz: 0.08, depthMs: 5, feedbackPercent: 55 } },
    { name: "Hollow", params: { rateHz: 0.2, depthMs: 1, feedbackPercent: -60 } }
  ],
  summary: (params) => `${num(params, "rateHz")} Hz, ${num(params, "feedbackPercent")} %`,
  placed: true,
  latency: () => MODULATION_LATENCY,
  settle: (params, sampleRate) => Math.ceil(ring(params, 120) * sampleRate) + 64,
  tail: (params, sampleRate) => Math.ceil(ring(params, 90) * sampleRate),
  widens: (params) => num(params, "spreadDegrees") > 0,
  create: (params, sampleRate, { position, origin = 0 }) =>
    modulatedDelay(flangerModulation(params), sampleRate, origin + position, num(params, "mixPercent"))
};

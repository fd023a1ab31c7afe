import { kernels } from "../kernels/instance";
import { dbToGain, formatDb } from "../units/decibels";
import { num, type EffectDescription } from "./description";

export const gain: EffectDescription = {
  id: "gain",
  name: "Gain",
  group: "dynamics",
  help: "Makes the sound louder or quieter by a fixed amount.",
  keywords: ["volume", "level", "amplify", "louder", "quieter"],
  params: [
    {
      kind: "number",
      id: "gainDb",
      name: "Gain",
      unit: "dB",
      min: -60,
      max: 48,
      default: 0,
      decimals: 1,
      step: 0.5,
      scale: "linear",
      help: "Amount in decibels; +6 dB doubles the amplitude."
    }
  ],
  presets: [
    { name: "Down 6 dB", params: { gainDb: -6 } },
    { name: "Up 12 dB", params: { gainDb: 12 } },
    { name: "Rescue, up 28 dB", params: { gainDb: 28 } }
  ],
  summary: (params) => `${formatDb(num(params, "gainDb"), 1, true)} dB`,
  latency: () => 0,
  settle: () => 0,
  create(params) {
    const factor = dbToGain(num(params, "gainDb"));
    return {
      process(l, r, n) {
        kernels.gain(l, n, factor);
        kernels.gain(r, n, factor);
      },
      release: () => undefined
    };
  }
};

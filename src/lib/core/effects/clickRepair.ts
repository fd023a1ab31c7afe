import { ClickRepairer, clickLatency } from "../audio/clickRepairer";
import { num, type EffectDescription } from "./description";
import { numberParam } from "./params";

export const clickRepair: EffectDescription = {
  id: "click-repair",
  name: "Click repair",
  group: "repair",
  help: "Replaces clicks and crackle by what the sound around them predicts.",
  keywords: ["declick", "crackle", "pop", "vinyl", "mouth", "repair"],
  params: [
    numberParam(
      ["sensitivityPercent", "Sensitivity", "%", 0, 100, 50, 0, 5],
      "More finds weaker clicks, and may take sharp consonants for clicks."
    ),
    numberParam(["longestMs", "Longest click", "ms", 0.1, 4, 1.5, 1, 0.1], "Longer ones are left alone.")
  ],
  presets: [
    { name: "Strong clicks only", params: { sensitivityPercent: 30 } },
    { name: "Crackle", params: { sensitivityPercent: 70, longestMs: 0.8 } }
  ],
  summary: (params) => `${num(params, "sensitivityPercent")} %, up to ${num(params, "longestMs")} ms`,
  latency: clickLatency,
  settle: (_params, sampleRate) => 4 * clickLatency(sampleRate),
  create: (params, sampleRate, { position }) =>
    new ClickRepairer(
      {
        // 18 to 6 times the usual prediction error.
        threshold: 18 - 0.12 * num(params, "sensitivityPercent"),
        longestSeconds: num(params, "longestMs") / 1000
      },
      sampleRate,
      position
    )
};

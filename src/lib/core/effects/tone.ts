import { BiquadCascade } from "../audio/biquadCascade";
import { settleFrames, type Section } from "../audio/biquadDesign";
import { bandFilter } from "../audio/matchedFilter";
import { dbToGain, formatDb } from "../units/decibels";
import { num, type EffectDescription, type Params } from "./description";
import { numberParam } from "./params";

/** The two shelves; one that is at 0 dB is left out. */
export function toneSections(params: Params, sampleRate: number): Section[] {
  const shelf = (type: "lowShelf" | "highShelf", name: string): Section[] => {
    const gain = num(params, `${name}Db`);
    if (gain === 0) return [];
    const hertz = Math.min(num(params, `${name}Hz`), sampleRate * 0.45);
    return [...bandFilter(type, dbToGain(gain / 2), Math.SQRT1_2, (2 * Math.PI * hertz) / sampleRate)];
  };
  return [...shelf("lowShelf", "bass"), ...shelf("highShelf", "treble")];
}

export const tone: EffectDescription = {
  id: "tone",
  name: "Tone",
  group: "tone",
  help: "Bass and treble: two shelves.",
  keywords: ["bass", "treble", "shelf", "brighter", "darker", "warm"],
  params: [
    numberParam(["bassDb", "Bass", "dB", -24, 24, 0, 1, 0.5], "Gain of what lies below the bass corner."),
    numberParam(
      ["trebleDb", "Treble", "dB", -24, 24, 0, 1, 0.5],
      "Gain of what lies above the treble corner."
    ),
    numberParam(["bassHz", "Bass corner", "Hz", 30, 1000, 200, 0, 10], "Middle of the bass slope.", "log"),
    numberParam(
      ["trebleHz", "Treble corner", "Hz", 1000, 16000, 4000, 0, 100],
      "Middle of the treble slope.",
      "log"
    )
  ],
  presets: [
    { name: "Less boom", params: { bassDb: -6, bassHz: 180 } },
    { name: "Brighter", params: { trebleDb: 4, trebleHz: 5000 } },
    { name: "Duller", params: { trebleDb: -5, trebleHz: 4000 } }
  ],
  summary: (params) =>
    `bass ${formatDb(num(params, "bassDb"), 1, true)}, treble ${formatDb(num(params, "trebleDb"), 1, true)} dB`,
  latency: () => 0,
  settle: (params, sampleRate) => settleFrames(toneSections(params, sampleRate)),
  create: (params, sampleRate) => new BiquadCascade(toneSections(params, sampleRate))
};

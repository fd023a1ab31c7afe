import { BiquadCascade } from "../audio/biquadCascade";
import { notchSection, settleFrames, type Section } from "../audio/biquadDesign";
import { HumFinder } from "../audio/humFinder";
import { choice, num, type EffectDescription, type Learnt, type Params } from "./description";
import { choiceParam, mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

/** Notches at the fundamental and its harmonics below 0.48 of the rate; none when there is no hum. */
export function humSections(params: Params, fundamental: number, sampleRate: number): Section[] {
  const sections: Section[] = [];
  const width = num(params, "widthHz");
  for (let h = 1; h <= num(params, "harmonics"); h++) {
    const hertz = h * fundamental;
    if (hertz <= 0 || hertz > sampleRate * 0.48) break;
    sections.push(notchSection((2 * Math.PI * hertz) / sampleRate, (2 * Math.PI * width) / sampleRate));
  }
  return sections;
}

/** The mains that is said or was found, Hz; 0 while there is none. */
export function humFundamental(params: Params, found: Learnt["values"] | undefined): number {
  const said = choice(params, "mains");
  return Number(said === "find" ? (found?.hertz ?? 0) : said);
}

export const humRemoval: EffectDescription = {
  id: "hum-removal",
  name: "Hum removal",
  help: "Cuts the lines of mains hum and leaves what lies between them.",
  keywords: ["mains", "buzz", "50 Hz", "60 Hz", "ground", "electric"],
  params: [
    choiceParam(
      "mains",
      "Mains",
      [
        ["find", "Find by itself"],
        ["50", "50 Hz"],
        ["60", "60 Hz"]
      ],
      "Frequency of the mains. Found by itself, it is measured over the whole sound, in which the hum must be there throughout."
    ),
    numberParam(
      ["harmonics", "Harmonics", "", 1, 60, 16, 0, 1],
      "How many lines are cut, the fundamental included."
    ),
    numberParam(
      ["widthHz", "Width", "Hz", 0.2, 20, 1.8, 1, 0.1],
      "Width of each cut at -3 dB; wider follows a mains that drifts.",
      "log"
    ),
    mixParam()
  ],
  presets: [
    { name: "Deep hum only", params: { harmonics: 4 } },
    { name: "Buzz to the top", params: { harmonics: 60 } }
  ],
  summary: (params) => {
    const said = choice(params, "mains");
    return `${said === "find" ? "finds it" : `${said} Hz`}, ${num(params, "harmonics")} lines`;
  },
  latency: () => 0,
  settle: (params, sampleRate) => settleFrames(humSections(params, 50, sampleRate)),
  streamsWith: {
    params: { mains: "50" },
    holds: (params) => choice(params, "mains") !== "find",
    why: "the mains frequency is set"
  },
  learns: (params) => choice(params, "mains") === "find",
  learn(_params, sampleRate, { frames }) {
    const finder = new HumFinder(sampleRate, frames);
    return {
      push: (l, r, n) => finder.push(l, r, n),
      finish: () => ({ values: { hertz: finder.finish() } }),
      release: () => finder.release()
    };
  },
  found: (values) =>
    values.hertz ? `Hum of ${Number(values.hertz).toFixed(2)} Hz found.` : "No hum found: nothing is cut.",
  create: (params, sampleRate, place) =>
    withMix(
      new BiquadCascade(humSections(params, humFundamental(params, place.learnt?.values), sampleRate)),
      0,
      num(params, "mixPercent")
    )
};

import { BiquadCascade } from "../audio/biquadCascade";
import { notchSection, settleFrames, type Section } from "../audio/biquadDesign";
import { BLOCK, StereoBlock } from "../audio/block";
import { HumFinder, MAINS_HZ } from "../hum/humFinder";
import { tracksFromText, tracksToText } from "../hum/humTrack";
import { HumVoice } from "../hum/humVoice";
import { kernels } from "../kernels/instance";
import { formatDb } from "../units/decibels";
import {
  choice,
  num,
  type EffectDescription,
  type Learnt,
  type Params,
  type Place,
  type Processor
} from "./description";
import { choiceParam, mixParam, numberParam } from "./params";
import { PASSES } from "./passes";
import { withMix } from "./wetDry";

/** Behind the sound's end there is no hum: it ends within so long. */
const END_SECONDS = 0.005;

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

const notches = (params: Params) => choice(params, "method") === "notches";

/** Subtracts the hum that was found; all else stays as it is. */
class HumSubtraction implements Processor {
  readonly #voices: HumVoice[];
  readonly #hum = new StereoBlock(BLOCK);
  readonly #edge: number;
  readonly #begins: number;
  readonly #ends: number;
  #at: number;

  constructor(text: string, sampleRate: number, { position, origin = 0, ends = Infinity }: Place) {
    this.#voices = tracksFromText(text).map((track) => new HumVoice(track, sampleRate));
    this.#edge = Math.round(END_SECONDS * sampleRate);
    this.#begins = -origin;
    this.#ends = ends;
    this.#at = position;
  }

  process(l: number, r: number, n: number): void {
    this.#hum.clear();
    const left = this.#hum.left.f32;
    const right = this.#hum.right.f32;
    let any = false;
    for (const voice of this.#voices) any = voice.add(this.#at, n, left, right) || any;
    if (any) {
      for (let i = 0; i < n; i++) {
        const frame = this.#at + i;
        if (frame >= this.#begins && frame < this.#ends) continue;
        const share = frame < this.#begins ? 0 : Math.max(0, 1 - (frame - this.#ends + 1) / this.#edge);
        left[i] *= share;
        right[i] *= share;
      }
      kernels.addScaled(l, this.#hum.left.ptr, n, -1);
      kernels.addScaled(r, this.#hum.right.ptr, n, -1);
    }
    this.#at += n;
  }

  release(): void {
    this.#hum.release();
    this.#voices.forEach((voice) => voice.release());
  }
}

export const humRemoval: EffectDescription = {
  id: "hum-removal",
  name: "Hum removal",
  group: "repair",
  help: "Takes the lines of mains hum away and leaves what lies on and between them.",
  keywords: ["mains", "buzz", "50 Hz", "60 Hz", "ground", "electric"],
  params: [
    choiceParam(
      "method",
      "Method",
      [
        ["subtract", "Subtract its lines"],
        ["notches", "Notches"]
      ],
      "Subtract: each line is followed over the whole sound and taken out of it; a voice on the same frequency stays. Notches: narrow filters, which also work where the sound is not known beforehand; they ring in pauses."
    ),
    choiceParam(
      "mains",
      "Mains",
      [
        ["find", "Find by itself"],
        ["50", "50 Hz"],
        ["60", "60 Hz"]
      ],
      "Frequency of the mains. What is subtracted follows its drift in any case."
    ),
    numberParam(
      ["harmonics", "Lines", "", 1, 60, 60, 0, 1],
      "How many lines are taken at most, the fundamental included."
    ),
    numberParam(
      ["widthHz", "Width", "Hz", 0.2, 20, 1.8, 1, 0.1],
      "Notches: width of each at -3 dB; wider follows a mains that drifts.",
      "log"
    ),
    mixParam()
  ],
  presets: [
    { name: "Deep hum only", params: { harmonics: 4 } },
    { name: "Buzz to the top", params: { harmonics: 60 } },
    { name: "Notches for a track, 50 Hz", params: { method: "notches", mains: "50", harmonics: 16 } }
  ],
  summary: (params) => {
    const said = choice(params, "mains");
    return `${notches(params) ? "notches, " : ""}${said === "find" ? "finds it" : `${said} Hz`}, ${num(params, "harmonics")} lines`;
  },
  latency: () => 0,
  settle: (params, sampleRate) => (notches(params) ? settleFrames(humSections(params, 50, sampleRate)) : 0),
  streamsWith: {
    params: { method: "notches", mains: "50" },
    holds: (params) => notches(params) && choice(params, "mains") !== "find",
    why: "it works by notches and the mains frequency is set"
  },
  learns: (params) => !notches(params) || choice(params, "mains") === "find",
  learn(params, sampleRate, { frames }) {
    const said = choice(params, "mains");
    const finder = new HumFinder(sampleRate, frames, {
      mains: said === "find" ? MAINS_HZ : [Number(said)],
      lines: num(params, "harmonics")
    });
    return {
      push: (l, r, n) => finder.push(l, r, n),
      finish(): Learnt {
        const found = finder.finish();
        if (!found) return { values: { hertz: 0, hum: "" } };
        const { hertz, numbers, levelDb, share, tracks } = found;
        return {
          values: {
            hertz,
            lines: numbers.length,
            levelDb,
            share,
            hum: notches(params) ? "" : tracksToText(tracks)
          }
        };
      },
      release: () => finder.release()
    };
  },
  found({ hertz, lines, levelDb, share }) {
    if (!hertz) return "No hum found: nothing is taken.";
    const part = Math.round(Number(share) * 100);
    return `Hum of ${Number(hertz).toFixed(2)} Hz found: ${lines} lines, ${formatDb(Number(levelDb), 0)} dBFS${part < 99 ? `, there ${part} % of the time` : ""}.`;
  },
  create(params, sampleRate, place) {
    const mix = num(params, "mixPercent");
    if (notches(params)) {
      const fundamental = humFundamental(params, place.learnt?.values);
      return withMix(new BiquadCascade(humSections(params, fundamental, sampleRate)), 0, mix);
    }
    const text = String(place.learnt?.values.hum ?? "");
    return text === "" ? PASSES : withMix(new HumSubtraction(text, sampleRate, place), 0, mix);
  }
};

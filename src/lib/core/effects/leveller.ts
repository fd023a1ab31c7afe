import { BLOCK } from "../audio/block";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { channelWeights } from "../measure/channelWeights";
import { MOMENTARY, STEPS_PER_SECOND } from "../measure/loudness";
import { Meter } from "../measure/meter";
import { dbToGain, formatDb } from "../units/decibels";
import { choice, num, type EffectDescription, type Learnt, type Place, type Processor } from "./description";
import { RIDE_RATE, rideGains } from "./levelRide";
import { choiceParam, numberParam } from "./params";
import { PASSES } from "./passes";

/** One byte a gain: steps of 0.2 dB. */
const STEP_DB = 0.2;
const ZERO = 128;
/** Frames between two gains that are computed: between them they go straight. */
const STRIDE = 64;
/** A gain belongs to the middle of its window. */
const FIRST_SECONDS = MOMENTARY / STEPS_PER_SECOND / 2;

function gainsToText(gains: Float64Array): string {
  const bytes = Array.from(gains, (g) =>
    String.fromCharCode(Math.max(0, Math.min(255, ZERO + Math.round(g / STEP_DB))))
  );
  return btoa(bytes.join(""));
}

function gainsFromText(text: string): Float64Array {
  return Float64Array.from(atob(text), (c) => (c.charCodeAt(0) - ZERO) * STEP_DB);
}

class Leveller implements Processor {
  readonly #gains: Float64Array;
  readonly #factors = new Buffer(BLOCK * 4);
  #at: number;

  constructor(
    text: string,
    { position }: Place,
    private readonly sampleRate: number
  ) {
    this.#gains = gainsFromText(text);
    this.#at = position;
  }

  /** Factor at a frame of the sound. */
  #factorAt(frame: number): number {
    const last = this.#gains.length - 1;
    const x = Math.max(0, Math.min(last, (frame / this.sampleRate - FIRST_SECONDS) * RIDE_RATE));
    const i = Math.min(Math.floor(x), Math.max(0, last - 1));
    const [a, b] = [this.#gains[i], this.#gains[Math.min(last, i + 1)]];
    return dbToGain(a + (b - a) * (x - i));
  }

  process(l: number, r: number, n: number): void {
    const factors = this.#factors.f32;
    // At multiples of the stride, so that it does not matter where a block begins.
    let from = Math.floor(this.#at / STRIDE) * STRIDE;
    let [a, b] = [this.#factorAt(from), this.#factorAt(from + STRIDE)];
    for (let i = 0; i < n; i++) {
      const frame = this.#at + i;
      if (frame >= from + STRIDE) {
        from += STRIDE;
        [a, b] = [b, this.#factorAt(from + STRIDE)];
      }
      factors[i] = a + ((b - a) * (frame - from)) / STRIDE;
    }
    kernels.multiply(l, l, this.#factors.ptr, n);
    kernels.multiply(r, r, this.#factors.ptr, n);
    this.#at += n;
  }

  release(): void {
    this.#factors.release();
  }
}

export const leveller: EffectDescription = {
  id: "leveller",
  name: "Leveller",
  group: "dynamics",
  help: "Rides the level of speech as a hand on the fader does: over seconds, without raising pauses.",
  keywords: ["ride", "dialogue", "voice", "even", "automatic", "fader"],
  params: [
    choiceParam(
      "towards",
      "Towards",
      [
        ["own", "Its own mean"],
        ["level", "A level"]
      ],
      "Its own mean: the speech stays as loud as it is on the whole. A level: in LUFS."
    ),
    numberParam(["levelDb", "Level", "LUFS", -40, -6, -20, 1, 0.5], "Loudness towards which it goes."),
    numberParam(["mostDb", "Most", "dB", 1, 24, 15, 1, 1], "The most that is given or taken."),
    numberParam(
      ["seconds", "Slowness", "s", 0.3, 5, 1, 1, 0.1],
      "Seconds over which loudness is averaged: more leaves more of the speaking's own life.",
      "log"
    )
  ],
  presets: [
    { name: "Voices alike", params: { towards: "own", mostDb: 15, seconds: 1 } },
    { name: "Gently", params: { towards: "own", mostDb: 6, seconds: 2.5 } },
    { name: "Narration at -20 LUFS", params: { towards: "level", levelDb: -20, mostDb: 12 } }
  ],
  summary: (params) =>
    `${choice(params, "towards") === "own" ? "to its mean" : `to ${formatDb(num(params, "levelDb"))} LUFS`}, ±${formatDb(num(params, "mostDb"), 0)} dB`,
  latency: () => 0,
  settle: () => 0,
  learn(params, sampleRate, { channels }) {
    const meter = new Meter(sampleRate, { weights: channelWeights(channels), peaks: false });
    return {
      push: (l, r, n) => meter.push(l, r, n),
      finish(): Learnt {
        const gains = rideGains(meter.overTime().momentaryLufs, {
          target: choice(params, "towards") === "own" ? undefined : num(params, "levelDb"),
          mostDb: num(params, "mostDb"),
          seconds: num(params, "seconds")
        });
        if (!gains) return { values: { gains: "" } };
        return { values: { gains: gainsToText(gains), least: Math.min(...gains), most: Math.max(...gains) } };
      },
      release: () => meter.release()
    };
  },
  found: ({ gains, least, most }) =>
    gains === ""
      ? "No speech found: the level stays as it is."
      : `Gain from ${formatDb(Number(least), 1, true)} to ${formatDb(Number(most), 1, true)} dB.`,
  create(_params, sampleRate, place) {
    const text = String(place.learnt?.values.gains ?? "");
    return text === "" ? PASSES : new Leveller(text, place, sampleRate);
  }
};

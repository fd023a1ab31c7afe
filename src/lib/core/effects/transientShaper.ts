import { pole } from "../audio/smoothing";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { formatDb } from "../units/decibels";
import { num, type EffectDescription, type Params, type Processor } from "./description";
import { mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

const LOOK_AHEAD = 0.002;
// Tuned on recorded drums (tests/core/shaping.test.ts): so the crest factor follows the setting.
const SLOW_RISE = 0.0015;
const BACK = 0.06;
const FAST_FALL = 0.03;
const SLOW_FALL = 0.3;
const SMOOTHING = 0.0004;
/** Time in which a sound comes to count as lasting. */
const LASTING = 0.2;
/** For how long a hit's level is remembered, against which a softer one is held down. */
const REMEMBERED = 0.25;
// Distance of the envelopes at which the whole gain is reached.
const ATTACK_SPAN_DB = 2;
const SUSTAIN_SPAN_DB = 12;

// A stronger hit raises the mean power as well; a little more gain keeps the crest factor's promise.
function attackGain(db: number): number {
  return db < 0 ? db : db * (1.1 + 0.01 * Math.max(0, db - 6) + 0.035 * Math.max(0, db - 9));
}

function ahead(sampleRate: number): number {
  return Math.ceil(LOOK_AHEAD * sampleRate);
}

class TransientShaper implements Processor {
  readonly #params = new Buffer(13 * 8);
  readonly #state: Buffer;

  constructor(params: Params, sampleRate: number) {
    const lag = ahead(sampleRate);
    this.#state = new Buffer(72 + (lag + 1) * 8);
    kernels.transientReset(this.#state.ptr);
    this.#params.f64.set([
      attackGain(num(params, "attackDb")),
      num(params, "sustainDb"),
      pole(SLOW_RISE, sampleRate),
      pole(FAST_FALL, sampleRate),
      pole(SLOW_FALL, sampleRate),
      ATTACK_SPAN_DB,
      SUSTAIN_SPAN_DB,
      lag,
      lag + 1,
      pole(SMOOTHING, sampleRate),
      pole(BACK, sampleRate),
      pole(LASTING, sampleRate),
      Math.round(REMEMBERED * sampleRate)
    ]);
  }

  process(l: number, r: number, n: number): void {
    kernels.transient(l, r, n, this.#params.ptr, this.#state.ptr);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
  }
}

export const transientShaper: EffectDescription = {
  id: "transient-shaper",
  name: "Transient shaper",
  group: "dynamics",
  help: "Makes hits stronger or softer, and what rings on longer or shorter.",
  keywords: ["attack", "sustain", "punch", "drum", "snap", "hit"],
  params: [
    numberParam(
      ["attackDb", "Attack", "dB", -12, 12, 0, 1, 0.5],
      "Gain of each hit: upwards that of its first milliseconds, by which the crest factor of a drum rises; downwards that of the whole hit, until it falls below by itself."
    ),
    numberParam(["sustainDb", "Sustain", "dB", -12, 12, 0, 1, 0.5], "Gain of what rings on after them."),
    mixParam()
  ],
  presets: [
    { name: "More snap", params: { attackDb: 6 } },
    { name: "Drier", params: { sustainDb: -9 } },
    { name: "Softer hits", params: { attackDb: -6, sustainDb: 2 } }
  ],
  summary: (params) =>
    `attack ${formatDb(num(params, "attackDb"), 1, true)}, sustain ${formatDb(num(params, "sustainDb"), 1, true)} dB`,
  latency: ahead,
  settle: (_params, sampleRate) => Math.ceil(SLOW_FALL * 14 * sampleRate),
  create: (params, sampleRate) =>
    withMix(new TransientShaper(params, sampleRate), ahead(sampleRate), num(params, "mixPercent"))
};

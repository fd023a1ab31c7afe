import { BLOCK } from "../audio/block";
import { DelayLine } from "../audio/delayLine";
import { bandPassTaps } from "../audio/fir";
import { kernels } from "../kernels/instance";
import { dbToGain } from "../units/decibels";
import { num, type EffectDescription, type Learnt, type Place, type Processor } from "./description";
import { mixParam, numberParam } from "./params";
import { PLOSIVE_STEPS, PlosiveFinder, SPLIT_HZ, type Plosive } from "./plosiveFinder";
import { withMix } from "./wetDry";

/** Length of the linear-phase filter that splits the sound: shorter ones take the fundamentals of low voices. */
const FILTER_SECONDS = 0.05;

/** Frames by which the output lies behind: half of the filter. */
function latency(sampleRate: number): number {
  return Math.round((FILTER_SECONDS * sampleRate) / 2);
}

/** Turns what lies below SPLIT_HZ down where bursts are: out = in + low × (gain - 1). Elsewhere the input as it was. */
class PlosiveRemoval implements Processor {
  readonly #taps: Float64Array;
  readonly #half: number;
  /** The last frames of both sides, as many as the filter has taps, written round. */
  readonly #past: readonly [Float64Array, Float64Array];
  readonly #delay: DelayLine;
  /** What is added to each side of a block. */
  readonly #taken = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  #at: number;
  #next = 0;

  constructor(
    private readonly plosives: readonly Plosive[],
    private readonly sampleRate: number,
    position: number
  ) {
    this.#half = latency(sampleRate);
    this.#taps = bandPassTaps(0, SPLIT_HZ, sampleRate, 2 * this.#half + 1);
    this.#past = [new Float64Array(this.#taps.length), new Float64Array(this.#taps.length)];
    this.#delay = new DelayLine(this.#half);
    this.#at = position;
  }

  /** What is taken of the low part at a frame: gain - 1; 0 beside bursts. */
  #shareAt(frame: number): number {
    const x = (frame / this.sampleRate) * PLOSIVE_STEPS;
    const { plosives } = this;
    while (this.#next < plosives.length) {
      const { step, gains } = plosives[this.#next];
      if (x < step + gains.length - 1) break;
      this.#next++;
    }
    if (this.#next === plosives.length) return 0;
    const { step, gains } = plosives[this.#next];
    if (x <= step) return 0;
    const i = Math.floor(x - step);
    const db = gains[i] + ((gains[i + 1] ?? 0) - gains[i]) * (x - step - i);
    return db === 0 ? 0 : dbToGain(db) - 1;
  }

  process(l: number, r: number, n: number): void {
    const views = [l, r].map((at) => new Float32Array(kernels.memory.buffer, at, n));
    const count = this.#taps.length;
    let any = false;
    for (let i = 0; i < n; i++) {
      const slot = (((this.#at + i) % count) + count) % count;
      for (let c = 0; c < 2; c++) this.#past[c][slot] = views[c][i];
      const share = this.#shareAt(this.#at + i - this.#half);
      for (const taken of this.#taken) taken[i] = 0;
      if (share === 0) continue;
      any = true;
      for (let c = 0; c < 2; c++) {
        const past = this.#past[c];
        let low = 0;
        // The taps are symmetric: it does not matter from which end.
        for (let k = 0, from = slot; k < count; k++, from = from === 0 ? count - 1 : from - 1)
          low += this.#taps[k] * past[from];
        this.#taken[c][i] = low * share;
      }
    }
    this.#delay.process(l, r, n);
    if (any)
      [l, r].forEach((at, c) => {
        const out = new Float32Array(kernels.memory.buffer, at, n);
        for (let i = 0; i < n; i++) if (this.#taken[c][i] !== 0) out[i] += this.#taken[c][i];
      });
    this.#at += n;
  }

  release(): void {
    this.#delay.release();
  }
}

function create(mixPercent: number, sampleRate: number, { learnt, position }: Place): Processor {
  const plosives = JSON.parse(String(learnt?.values.plosives ?? "[]")) as Plosive[];
  if (plosives.length === 0) return new DelayLine(latency(sampleRate));
  return withMix(new PlosiveRemoval(plosives, sampleRate, position), latency(sampleRate), mixPercent);
}

export const plosiveRemoval: EffectDescription = {
  id: "plosive-removal",
  name: "Plosive removal",
  group: "repair",
  help: "Tames the pops of p and b where a speaker's breath strikes the microphone. For speech: it takes drums for pops.",
  keywords: ["pop", "de-plosive", "breath", "wind", "thump", "p", "b"],
  params: [
    numberParam(
      ["overDb", "Stands out by", "dB", 6, 24, 14, 0, 1],
      "A pop lies this far over the usual level below 65 Hz; less finds weaker ones."
    ),
    numberParam(
      ["mostDb", "Most", "dB", 6, 48, 36, 0, 1],
      "The most that is taken, of what lies below 110 Hz."
    ),
    mixParam()
  ],
  presets: [
    { name: "Strong pops only", params: { overDb: 20 } },
    { name: "Soft pops too", params: { overDb: 10, mostDb: 24 } }
  ],
  summary: (params) => `pops ${num(params, "overDb")} dB out, up to -${num(params, "mostDb")} dB`,
  latency,
  settle: (_params, sampleRate) => 2 * latency(sampleRate),
  learn(params, sampleRate, { frames }) {
    const finder = new PlosiveFinder(sampleRate, frames);
    return {
      push: (l, r, n) => finder.push(l, r, n),
      finish(): Learnt {
        const found = finder.finish({ overDb: num(params, "overDb"), mostDb: num(params, "mostDb") });
        return { values: { pops: found.length, plosives: JSON.stringify(found) } };
      },
      release: () => finder.release()
    };
  },
  found: ({ pops }) =>
    pops === 0 ? "No pops found: nothing is taken." : `${pops} pop${pops === 1 ? "" : "s"} found.`,
  create: (params, sampleRate, place) => create(num(params, "mixPercent"), sampleRate, place)
};

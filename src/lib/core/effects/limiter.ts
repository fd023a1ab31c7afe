import { BLOCK } from "../audio/block";
import { finePeakTaps, PEAK_DELAY } from "../audio/finePeakFilter";
import { truePeakTaps } from "../audio/truePeakFilter";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { dbToGain, formatDb } from "../units/decibels";
import { isOn, num, type EffectDescription, type Params, type Processor } from "./description";

const MAX_LOOK_AHEAD = 0.01;
// Gain that still moves between two samples lets the interpolated peak rise a little above the ceiling, and interpolators differ: this is kept
// in hand. Sparse impulses with the shortest times need most of it (tests/core/limiterPeaks.test.ts).
const MARGIN_DB = 0.15;

function windowMax(sampleRate: number): number {
  return Math.ceil(MAX_LOOK_AHEAD * sampleRate);
}

function limiterLatency(sampleRate: number): number {
  return windowMax(sampleRate) - 1 + PEAK_DELAY;
}

class Limiter implements Processor {
  readonly #capacity: number;
  readonly #params = new Buffer(7 * 8);
  readonly #state: Buffer;
  readonly #work = new Buffer(2048);
  readonly #fine = finePeakTaps();
  readonly #coarse = truePeakTaps();

  constructor(params: Params, sampleRate: number) {
    const truePeak = isOn(params, "truePeak");
    const longest = windowMax(sampleRate);
    const window = Math.max(
      4,
      Math.min(longest, Math.round((num(params, "lookAheadMs") / 1000) * sampleRate))
    );
    // The box looks back over lag and window, the signal over its delay.
    this.#capacity = Math.ceil((2 * longest + PEAK_DELAY + 8) / 4) * 4;
    this.#state = new Buffer(64 + 5 * (this.#capacity + BLOCK) * 4);
    kernels.limiterReset(this.#state.ptr, this.#capacity, window);
    this.#params.f64.set([
      dbToGain(num(params, "ceilingDb") - (truePeak ? MARGIN_DB : 0)),
      kernels.exp(-1 / ((num(params, "releaseMs") / 1000) * sampleRate)),
      window,
      limiterLatency(sampleRate),
      longest - window,
      dbToGain(num(params, "gainDb")),
      truePeak ? 1 : 0
    ]);
  }

  process(l: number, r: number, n: number): void {
    const { ptr } = this.#params;
    kernels.limiter(l, r, n, ptr, this.#state.ptr, this.#capacity, this.#fine, this.#coarse, this.#work.ptr);
  }

  release(): void {
    for (const b of [this.#params, this.#state, this.#work]) b.release();
  }
}

export const limiter: EffectDescription = {
  id: "limiter",
  name: "Limiter",
  group: "dynamics",
  help: "Makes the sound louder and lets no peak rise above the ceiling.",
  keywords: ["maximize", "ceiling", "peak", "loudness", "brickwall"],
  params: [
    {
      kind: "number",
      id: "gainDb",
      name: "Gain",
      unit: "dB",
      min: -12,
      max: 36,
      default: 0,
      decimals: 1,
      step: 0.5,
      scale: "linear",
      help: "Gain into the limiter."
    },
    {
      kind: "number",
      id: "ceilingDb",
      name: "Ceiling",
      unit: "dB",
      min: -30,
      max: 0,
      default: -1,
      decimals: 1,
      step: 0.1,
      scale: "linear",
      help: "Level that no peak passes: dBTP with true peak on, else dBFS."
    },
    {
      kind: "number",
      id: "releaseMs",
      name: "Release",
      unit: "ms",
      min: 1,
      max: 2000,
      default: 80,
      decimals: 0,
      step: 5,
      scale: "log",
      help: "Time in which 63 % of a reduction is given back."
    },
    {
      kind: "number",
      id: "lookAheadMs",
      name: "Look-ahead",
      unit: "ms",
      min: 1,
      max: 10,
      default: 5,
      decimals: 1,
      step: 0.5,
      scale: "linear",
      help: "Time in which the gain comes down before a peak."
    },
    {
      kind: "switch",
      id: "truePeak",
      name: "True peak",
      default: true,
      help: "Looks between the samples (ITU-R BS.1770 annex 2), as converters and codecs do."
    }
  ],
  presets: [
    { name: "Rescue, +24 dB", params: { gainDb: 24, ceilingDb: -1, releaseMs: 120 } },
    { name: "Safety only", params: { gainDb: 0, ceilingDb: -1, releaseMs: 60 } },
    { name: "Just under full scale", params: { gainDb: 6, ceilingDb: -0.1, releaseMs: 80 } }
  ],
  summary: (params) =>
    `${formatDb(num(params, "gainDb"), 1, true)} dB, ceiling ${formatDb(num(params, "ceilingDb"))} ${isOn(params, "truePeak") ? "dBTP" : "dBFS"}`,
  latency: limiterLatency,
  settle: (params, sampleRate) =>
    Math.ceil(((num(params, "releaseMs") / 1000) * 14 + MAX_LOOK_AHEAD * 2) * sampleRate),
  create: (params, sampleRate) => new Limiter(params, sampleRate)
};

import { StereoBlock } from "../audio/block";
import { DelayLine } from "../audio/delayLine";
import { bandPassTaps, FirPair } from "../audio/fir";
import { pole } from "../audio/smoothing";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { formatDb } from "../units/decibels";
import { num, type EffectDescription, type Params, type Processor } from "./description";
import { numberParam } from "./params";

const DETECTOR_RELEASE = 0.004;

/** Frames by which the linear-phase band filter delays: 2.7 ms. */
function half(sampleRate: number): number {
  return Math.ceil((sampleRate * 128) / 48000);
}

/** The band is cut out by a linear-phase filter and added back turned down: what lies outside it is not touched. */
class DeEsser implements Processor {
  readonly #band: FirPair;
  readonly #delay: DelayLine;
  readonly #block = new StereoBlock();
  readonly #params = new Buffer(6 * 8);
  readonly #state = new Buffer(2 * 8);

  constructor(params: Params, sampleRate: number) {
    const lag = half(sampleRate);
    const top = Math.min(num(params, "toHz"), sampleRate * 0.48);
    const from = Math.min(num(params, "fromHz"), top * 0.9);
    this.#band = new FirPair(bandPassTaps(from, top, sampleRate, 2 * lag + 1));
    this.#delay = new DelayLine(lag);
    this.#params.f64.set([
      num(params, "thresholdDb"),
      1 - 1 / num(params, "ratio"),
      num(params, "amountDb"),
      pole(num(params, "attackMs") / 1000, sampleRate),
      pole(num(params, "releaseMs") / 1000, sampleRate),
      pole(DETECTOR_RELEASE, sampleRate)
    ]);
  }

  process(l: number, r: number, n: number): void {
    const bandL = this.#block.left.ptr;
    const bandR = this.#block.right.ptr;
    this.#band.process(l, r, bandL, bandR, n);
    this.#delay.process(l, r, n);
    kernels.deEss(l, r, bandL, bandR, n, this.#params.ptr, this.#state.ptr);
  }

  release(): void {
    for (const b of [this.#band, this.#delay, this.#block, this.#params, this.#state]) b.release();
  }
}

export const deEsser: EffectDescription = {
  id: "de-esser",
  name: "De-esser",
  group: "dynamics",
  help: "Turns down sharp s sounds and leaves everything else alone.",
  keywords: ["sibilance", "s", "esses", "sharp", "harsh"],
  params: [
    numberParam(
      ["thresholdDb", "Threshold", "dB", -80, 0, -32, 1, 0.5],
      "Level of the band from which it is turned down."
    ),
    numberParam(["amountDb", "Amount", "dB", 0, 24, 6, 1, 0.5], "The most by which the band is turned down."),
    numberParam(
      ["ratio", "Ratio", ":1", 1, 20, 6, 1, 0.5],
      "How steeply it is turned down above the threshold.",
      "log"
    ),
    numberParam(["fromHz", "From", "Hz", 1000, 12000, 4500, 0, 100], "Lower edge of the band.", "log"),
    numberParam(["toHz", "To", "Hz", 2000, 20000, 9500, 0, 100], "Upper edge of the band.", "log"),
    numberParam(
      ["attackMs", "Attack", "ms", 0, 50, 1, 1, 0.5],
      "Time in which 63 % of a reduction is reached."
    ),
    numberParam(
      ["releaseMs", "Release", "ms", 1, 500, 40, 0, 5],
      "Time in which 63 % of it is given back, once the level of the band has fallen: by 8.7 dB in 4 ms.",
      "log"
    )
  ],
  presets: [
    { name: "Gentle", params: { thresholdDb: -34, amountDb: 4, ratio: 3 } },
    { name: "Sharp voice", params: { thresholdDb: -38, amountDb: 9, ratio: 8 } }
  ],
  summary: (params) => `up to -${formatDb(num(params, "amountDb"))} dB`,
  latency: half,
  settle: (params, sampleRate) =>
    Math.ceil(((num(params, "attackMs") + num(params, "releaseMs")) / 1000) * 14 * sampleRate) +
    4 * half(sampleRate),
  create: (params, sampleRate) => new DeEsser(params, sampleRate)
};

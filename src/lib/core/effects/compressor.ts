import { BiquadCascade } from "../audio/biquadCascade";
import { matchedSection } from "../audio/biquadDesign";
import { BLOCK, StereoBlock } from "../audio/block";
import { pole } from "../audio/smoothing";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { formatDb } from "../units/decibels";
import { choice, isOn, num, type EffectDescription, type Params, type Processor } from "./description";
import { choiceParam, mixParam, numberParam, switchParam } from "./params";

const MAX_LOOK_AHEAD = 0.02;
// Longest wait for the next half-wave before a peak is let go: holds tones from 50 Hz steady.
const PEAK_HOLD = 0.01;
const DETECTOR_RELEASE = 0.005;
const RMS_TIME = 0.01;
const SIDE_HIGH_PASS_OFF = 20;

function slope(params: Params): number {
  return 1 / num(params, "ratio") - 1;
}

/** Make-up gain in dB: as set, plus half of what the curve takes from 0 dBFS when automatic (common practice, no source). */
export function makeUp(params: Params): number {
  const automatic = isOn(params, "autoMakeUp") ? -staticGain(0, params) / 2 : 0;
  return num(params, "makeUpDb") + automatic;
}

/** Gain in dB of the static curve for a level in dBFS, without make-up. */
export function staticGain(level: number, params: Params): number {
  return kernels.compressorCurve(level, num(params, "thresholdDb"), slope(params), num(params, "kneeDb"));
}

/** Delay of signal and side-chain: the signal leaves after it, the detector hears `look-ahead` samples sooner. */
function delayFrames(sampleRate: number): number {
  return Math.ceil(MAX_LOOK_AHEAD * sampleRate);
}

class Compressor implements Processor {
  readonly #params = new Buffer(14 * 8);
  readonly #state: Buffer;
  readonly #side: StereoBlock | undefined;
  readonly #highPass: BiquadCascade | undefined;

  constructor(params: Params, sampleRate: number) {
    const delay = delayFrames(sampleRate);
    this.#state = new Buffer(64 + 4 * (delay + BLOCK) * 4 + (BLOCK + 8) * 4);
    this.#params.f64.set([
      num(params, "thresholdDb"),
      slope(params),
      num(params, "kneeDb"),
      pole(num(params, "attackMs") / 1000, sampleRate),
      pole(num(params, "releaseMs") / 1000, sampleRate),
      makeUp(params),
      Math.round((PEAK_HOLD + num(params, "holdMs") / 1000) * sampleRate),
      choice(params, "detector") === "rms" ? 1 : 0,
      pole(RMS_TIME, sampleRate),
      Math.min(delay, Math.round((num(params, "lookAheadMs") / 1000) * sampleRate)),
      num(params, "linkPercent") / 100,
      num(params, "mixPercent") / 100,
      pole(DETECTOR_RELEASE, sampleRate),
      delay
    ]);
    const corner = num(params, "sideHighPassHz");
    if (corner > SIDE_HIGH_PASS_OFF) {
      this.#side = new StereoBlock();
      const w = (2 * Math.PI * Math.min(corner, sampleRate * 0.45)) / sampleRate;
      this.#highPass = new BiquadCascade([matchedSection("highPass", 1, Math.SQRT1_2, w)]);
    }
  }

  process(l: number, r: number, n: number): void {
    let sideL = l;
    let sideR = r;
    if (this.#side && this.#highPass) {
      sideL = this.#side.left.ptr;
      sideR = this.#side.right.ptr;
      kernels.copy(sideL, l, n);
      kernels.copy(sideR, r, n);
      this.#highPass.process(sideL, sideR, n);
    }
    kernels.compressor(l, r, sideL, sideR, n, this.#params.ptr, this.#state.ptr);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
    this.#side?.release();
    this.#highPass?.release();
  }
}

export const compressor: EffectDescription = {
  id: "compressor",
  name: "Compressor",
  group: "dynamics",
  help: "Turns down what is loud, so that loud and quiet come nearer.",
  keywords: ["dynamics", "levelling", "squeeze", "ratio"],
  params: [
    numberParam(
      ["thresholdDb", "Threshold", "dB", -80, 0, -24, 1, 0.5],
      "Level from which the gain is turned down."
    ),
    numberParam(
      ["ratio", "Ratio", ":1", 1, 50, 3, 1, 0.1],
      "How many dB more in give one dB more out.",
      "log"
    ),
    numberParam(["kneeDb", "Knee", "dB", 0, 30, 6, 1, 0.5], "Width of the bend around the threshold."),
    numberParam(
      ["attackMs", "Attack", "ms", 0, 500, 10, 1, 1],
      "Time in which 63 % of a gain reduction is reached."
    ),
    numberParam(
      ["releaseMs", "Release", "ms", 1, 5000, 150, 0, 5],
      "Time in which 63 % of a reduction is given back, once the detector lets go: a peak is held for 10 ms, then falls by 8.7 dB in 5 ms; RMS falls by 4.3 dB in 10 ms.",
      "log"
    ),
    numberParam(
      ["holdMs", "Hold", "ms", 0, 1000, 0, 0, 5],
      "How long a peak is remembered before release (10 ms at least)."
    ),
    numberParam(["lookAheadMs", "Look-ahead", "ms", 0, 20, 0, 1, 0.5], "How far the detector hears ahead."),
    choiceParam(
      "detector",
      "Detector",
      [
        ["peak", "Peak"],
        ["rms", "RMS"]
      ],
      "Peak reacts to every crest, RMS to the mean power of 10 ms."
    ),
    numberParam(
      ["sideHighPassHz", "Side-chain high-pass", "Hz", 20, 1000, 20, 0, 10],
      "The detector ignores what lies below.",
      "log",
      20
    ),
    numberParam(
      ["linkPercent", "Stereo link", "%", 0, 100, 100, 0, 5],
      "100 % turns both channels down together."
    ),
    numberParam(["makeUpDb", "Make-up", "dB", -24, 36, 0, 1, 0.5], "Gain after compression."),
    switchParam(
      "autoMakeUp",
      "Automatic make-up",
      false,
      "Adds half of what the curve takes from a full-scale signal."
    ),
    mixParam()
  ],
  presets: [
    { name: "Even speech", params: { thresholdDb: -26, ratio: 3, attackMs: 8, releaseMs: 180, makeUpDb: 4 } },
    {
      name: "Gentle glue",
      params: { thresholdDb: -20, ratio: 1.6, kneeDb: 12, attackMs: 30, releaseMs: 300 }
    },
    { name: "Hold it down", params: { thresholdDb: -30, ratio: 8, kneeDb: 3, attackMs: 2, releaseMs: 90 } }
  ],
  summary: (params) => `${formatDb(num(params, "thresholdDb"))} dB, ${num(params, "ratio").toFixed(1)}:1`,
  latency: delayFrames,
  settle(params, sampleRate) {
    const slowest = Math.max(num(params, "attackMs"), num(params, "releaseMs")) / 1000;
    return Math.ceil((slowest * 12 + num(params, "holdMs") / 1000 + 0.1) * sampleRate);
  },
  create: (params, sampleRate) => new Compressor(params, sampleRate)
};

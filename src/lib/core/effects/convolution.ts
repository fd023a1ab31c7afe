import { Convolver, CONVOLVER_LATENCY } from "../audio/convolver";
import { kernels } from "../kernels/instance";
import { dbToGain } from "../units/decibels";
import {
  isOn,
  num,
  type EffectDescription,
  type Params,
  type Place,
  type Processor,
  type Samples
} from "./description";
import { SoundMissing } from "./soundMissing";
import { mixParam, numberParam, switchParam } from "./params";
import { withMix } from "./wetDry";

/** Longest impulse response in seconds; what comes later is left out. */
const MAX_SECONDS = 20;
const BUILT_IN_SECONDS = 1.6;

/** Decaying noise, different on both sides: what is heard until an impulse response is chosen. */
function builtIn(sampleRate: number): Samples {
  const frames = Math.round(BUILT_IN_SECONDS * sampleRate);
  const fall = kernels.exp((-60 / 20) * (Math.LN10 / frames));
  let seed = 0x1f123bb5;
  const next = () => {
    seed ^= seed << 13;
    seed ^= seed >>> 17;
    seed ^= seed << 5;
    return seed / 2 ** 31;
  };
  const side = () => {
    let level = 1;
    return Float32Array.from({ length: frames }, () => (level *= fall) * next());
  };
  return { left: side(), right: side() };
}

function energy(x: Float32Array): number {
  return x.reduce((a, b) => a + b * b, 0);
}

/** The impulse response as it is used: cut, faded by "length", scaled to unit energy if wanted. */
function prepared(samples: Samples, params: Params, sampleRate: number): Samples {
  const longest = Math.min(samples.left.length, Math.round(num(params, "lengthS") * sampleRate));
  const cut = (x: Float32Array) => x.slice(0, longest);
  const left = cut(samples.left);
  const right = cut(samples.right);
  const most = Math.max(energy(left), energy(right));
  const scale =
    dbToGain(num(params, "gainDb")) / (isOn(params, "evenLevel") && most > 0 ? Math.sqrt(most) : 1);
  return { left: left.map((x) => x * scale), right: right.map((x) => x * scale) };
}

function processor(params: Params, sampleRate: number, place: Place): Processor {
  const id = params.impulse as string;
  const samples = id === "" ? builtIn(sampleRate) : place.sound(id);
  // Never a stand-in: it would sound, and be rendered, and no one would know.
  if (!samples)
    throw new SoundMissing(
      "The impulse response of a convolution reverb is missing. Choose another, or import it again."
    );
  const { left, right } = prepared(samples, params, sampleRate);
  const phase = ((place.position % CONVOLVER_LATENCY) + CONVOLVER_LATENCY) % CONVOLVER_LATENCY;
  return new Convolver(left, right, phase);
}

export const convolution: EffectDescription = {
  id: "convolution",
  name: "Convolution reverb",
  group: "space",
  help: "The sound of a real room or thing, from a recording of its response.",
  keywords: ["impulse", "response", "reverb", "room", "space", "cabinet"],
  params: [
    {
      kind: "recording",
      id: "impulse",
      name: "Impulse response",
      default: "",
      help: "A recording of a clap, a shot or a sweep's response in the room; without one, decaying noise of 1.6 s."
    },
    numberParam(
      ["lengthS", "Length", "s", 0.01, MAX_SECONDS, MAX_SECONDS, 2, 0.1],
      "How much of the impulse response is used.",
      "log"
    ),
    switchParam(
      "evenLevel",
      "Even level",
      true,
      "Scales the impulse response to unit energy, so that all are about equally loud."
    ),
    numberParam(["gainDb", "Gain", "dB", -40, 40, 0, 1, 0.5], "Level of the reverb."),
    mixParam(30, "Share of the reverb; 0 % is the untreated sound.")
  ],
  presets: [
    { name: "A little", params: { mixPercent: 15 } },
    { name: "Response alone", params: { mixPercent: 100 } }
  ],
  summary: (params) => `${params.impulse === "" ? "built-in" : "recording"}, ${num(params, "mixPercent")} %`,
  latency: () => CONVOLVER_LATENCY,
  settle: (params, sampleRate) => Math.ceil(num(params, "lengthS") * sampleRate) + 2 * CONVOLVER_LATENCY,
  tail: (params, sampleRate) => Math.ceil(num(params, "lengthS") * sampleRate),
  // A recorded response may begin late, or hold single reflections.
  gap: (params, sampleRate) => Math.ceil(Math.min(0.5, num(params, "lengthS")) * sampleRate),
  widens: (params) => num(params, "mixPercent") > 0,
  create: (params, sampleRate, place) =>
    withMix(processor(params, sampleRate, place), CONVOLVER_LATENCY, num(params, "mixPercent"))
};

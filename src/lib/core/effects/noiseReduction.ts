import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { dbToGain, formatDb } from "../units/decibels";
import { choice, num, type EffectDescription, type Params, type Place, type Processor } from "./description";
import { frameSize, NoiseLearner, powerAtRate, profileFault, profileFromText, profileToText } from "./noiseProfile";
import { choiceParam, mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

// Four overlapping Hann windows, on the way in and out: their squares add up to 1.5.
const OVERLAP = 4;
const WINDOW_SUM = 1.5;
const LEAST_NOISE = 1e-14;

/** Share of the past in the a-priori estimate, from the smoothing in percent. */
function memoryOf(percent: number): number {
  return 0.6 + 0.39 * Math.sqrt(percent / 100);
}

class NoiseReduction implements Processor {
  readonly #n: number;
  readonly #hop: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #input: Buffer;
  readonly #output: Buffer;
  readonly #work: Buffer;
  readonly #noise: Buffer;
  readonly #past: Buffer;
  readonly #power: Buffer;
  readonly #gains: Buffer;
  readonly #smooth: Buffer;
  readonly #bins: number;
  readonly #memory: number;
  readonly #floor: number;
  #at: number;

  constructor(params: Params, sampleRate: number, profile: string, position: number) {
    const n = frameSize(sampleRate);
    this.#n = n;
    this.#hop = n / OVERLAP;
    this.#fft = new Fft(n);
    this.#window = new Buffer(n * 4);
    const window = hann(n);
    this.#window.f32.set(window);
    this.#input = new Buffer(n * 8);
    this.#output = new Buffer(n * 8);
    this.#work = new Buffer(n * 8);
    this.#bins = n / 2 + 1;
    const padded = (Math.ceil(this.#bins / 4) * 4 + 4) * 4;
    this.#noise = new Buffer(padded);
    this.#past = new Buffer(padded);
    this.#power = new Buffer(padded);
    this.#gains = new Buffer(padded);
    this.#smooth = new Buffer(padded);
    const energy = window.reduce((a, w) => a + w * w, 0);
    const more = kernels.exp((num(params, "sensitivityDb") * Math.LN10) / 10);
    this.#noise.f32.fill(1);
    this.#noise.f32.set(
      powerAtRate(profileFromText(profile), sampleRate).map((p) => Math.max(LEAST_NOISE, p * energy * more))
    );
    this.#memory = memoryOf(num(params, "smoothingPercent"));
    this.#floor = dbToGain(-num(params, "reductionDb"));
    this.#at = ((position % this.#hop) + this.#hop) % this.#hop;
  }

  process(l: number, r: number, n: number): void {
    const side = this.#n * 4;
    const input = this.#input.ptr + (this.#n - this.#hop) * 4;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#hop - this.#at);
      const at = this.#at * 4;
      kernels.copy(input + at, l + done * 4, m);
      kernels.copy(input + side + at, r + done * 4, m);
      kernels.copy(l + done * 4, this.#output.ptr + at, m);
      kernels.copy(r + done * 4, this.#output.ptr + side + at, m);
      this.#at += m;
      done += m;
      if (this.#at < this.#hop) continue;
      this.#frame();
      this.#at = 0;
    }
  }

  #frame(): void {
    const n = this.#n;
    const side = n * 4;
    const re = this.#work.ptr;
    const im = re + side;
    const window = this.#window.ptr;
    kernels.multiply(re, this.#input.ptr, window, n);
    kernels.multiply(im, this.#input.ptr + side, window, n);
    this.#fft.forward(re, im);
    kernels.pairPower(re, im, this.#power.ptr, n);
    const bins = Math.ceil(this.#bins / 4) * 4;
    kernels.denoiseGains(
      this.#power.ptr,
      this.#noise.ptr,
      this.#past.ptr,
      this.#gains.ptr,
      bins,
      this.#memory,
      this.#floor
    );
    kernels.smoothBins(this.#gains.ptr, this.#smooth.ptr, this.#bins);
    kernels.pairGain(re, im, this.#smooth.ptr, n);
    this.#fft.inverse(re, im);
    kernels.gain(re, n, 1 / WINDOW_SUM);
    kernels.gain(im, n, 1 / WINDOW_SUM);
    // The oldest hop is finished; the rest moves up and the new frame is added.
    const rest = n - this.#hop;
    for (let c = 0; c < 2; c++) {
      const out = this.#output.ptr + c * side;
      const input = this.#input.ptr + c * side;
      kernels.copy(out, out + this.#hop * 4, rest);
      kernels.clear(out + rest * 4, this.#hop);
      kernels.multiplyAdd(out, c === 0 ? re : im, window, n);
      kernels.copy(input, input + this.#hop * 4, rest);
    }
  }

  release(): void {
    for (const b of [
      this.#fft,
      this.#window,
      this.#input,
      this.#output,
      this.#work,
      this.#noise,
      this.#past,
      this.#power,
      this.#gains,
      this.#smooth
    ])
      b.release();
  }
}

function create(params: Params, sampleRate: number, place: Place): Processor {
  const carried = choice(params, "source") === "carried" ? (params.profile as string) : "";
  const profile = carried || String(place.learnt?.values.profile ?? "");
  const quiet = profileToText({ sampleRate, power: new Float64Array(frameSize(sampleRate) / 2 + 1) });
  // Without a profile there is nothing to reduce: the sound passes, delayed alike.
  const processor = new NoiseReduction(params, sampleRate, profile || quiet, place.position);
  return withMix(processor, frameSize(sampleRate), num(params, "mixPercent"));
}

export const noiseReduction: EffectDescription = {
  id: "noise-reduction",
  name: "Noise reduction",
  help: "Takes steady noise away: hiss, wind, air conditioning.",
  keywords: ["denoise", "hiss", "clean", "restore", "background"],
  params: [
    choiceParam(
      "source",
      "Noise",
      [
        ["learn", "Learn from this sound"],
        ["carried", "Carry a profile"]
      ],
      "Learn: from the quietest half second of whatever it treats. Carry: the profile that was learnt goes wherever this step goes."
    ),
    {
      kind: "data",
      id: "profile",
      name: "Profile",
      default: "",
      fault: profileFault,
      help: "The carried profile, learnt from a stretch with noise alone."
    },
    numberParam(["reductionDb", "Reduction", "dB", 0, 60, 18, 1, 1], "How far the noise is taken down; a moderate hand sounds most natural."),
    numberParam(["sensitivityDb", "Sensitivity", "dB", -12, 18, 4, 1, 0.5], "How far above the learnt noise sound still counts as noise."),
    numberParam(["smoothingPercent", "Smoothing", "%", 0, 100, 85, 0, 5], "More: no chirping remains; less: beginnings stay sharper."),
    mixParam()
  ],
  presets: [
    { name: "Light", params: { reductionDb: 10, sensitivityDb: 2 } },
    { name: "Strong", params: { reductionDb: 26, sensitivityDb: 5, smoothingPercent: 92 } }
  ],
  summary: (params) =>
    `-${formatDb(num(params, "reductionDb"))} dB, ${choice(params, "source") === "carried" ? "carried profile" : "learns"}`,
  latency: frameSize,
  settle: (_params, sampleRate) => Math.ceil(2 * sampleRate),
  learn(params, sampleRate) {
    if (choice(params, "source") === "carried" && params.profile !== "") return undefined;
    const learner = new NoiseLearner(sampleRate, true);
    return {
      push: (l, r, n) => learner.push(l, r, n),
      finish() {
        const profile = learner.finish();
        return { values: { profile: profile ? profileToText(profile) : "" } };
      },
      release: () => learner.release()
    };
  },
  create
};

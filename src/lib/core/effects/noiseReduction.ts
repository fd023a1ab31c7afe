import { DelayLine } from "../audio/delayLine";
import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { dbToGain, formatDb } from "../units/decibels";
import {
  choice,
  num,
  type EffectDescription,
  type Learnt,
  type Params,
  type Place,
  type Processor
} from "./description";
import { NoiseFinder } from "./noiseFinder";
import { partShares, powerFactor } from "./noiseBands";
import { powerAtRate, profileFault, profileFromText, profileToText } from "./noiseProfile";
import { offsetsAt, trackFromText, trackToText, type TrackNode } from "./noiseTrack";
import { frameSize } from "./powerFrames";
import { choiceParam, mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

// Four overlapping Hann windows, on the way in and out: their squares add up to 1.5.
const OVERLAP = 4;
const WINDOW_SUM = 1.5;
const LEAST_NOISE = 1e-14;

// Frames on both sides of the one that is treated which can be averaged over; the delay is always the same.
const MOST_AROUND = 4;
const ROWS = 2 * MOST_AROUND + 1;

/** A frame's window, and the hops that it waits for its followers. */
function latency(sampleRate: number): number {
  const n = frameSize(sampleRate);
  return n + (MOST_AROUND * n) / OVERLAP;
}

class NoiseReduction implements Processor {
  readonly #n: number;
  readonly #hop: number;
  readonly #bins: number;
  readonly #padded: number;
  readonly #around: number;
  readonly #over: number;
  readonly #floor: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #outWindow: Buffer;
  readonly #input: Buffer;
  readonly #output: Buffer;
  readonly #inverse: Buffer;
  readonly #power: Buffer;
  readonly #work: Buffer;
  readonly #gains: Buffer;
  readonly #ratios: Buffer;
  readonly #spectra: readonly Buffer[];
  /** The profile's own, before its level moves; how it moves, and how far each bin takes part in each part's. */
  readonly #steady: Float32Array;
  readonly #track: readonly TrackNode[];
  readonly #shares: readonly Float32Array[];
  #offsets = "";
  #newest = 0;
  #row = 0;
  #at: number;
  /** Frames of the sound before the next that is given. */
  #position: number;

  constructor(
    params: Params,
    sampleRate: number,
    profile: string,
    track: readonly TrackNode[],
    position: number
  ) {
    const n = frameSize(sampleRate);
    this.#n = n;
    this.#hop = n / OVERLAP;
    this.#bins = n / 2 + 1;
    this.#padded = Math.ceil(this.#bins / 4) * 4;
    this.#around = Math.round((num(params, "smoothingPercent") / 100) * MOST_AROUND);
    this.#over = kernels.exp((num(params, "sensitivityDb") * Math.LN10) / 10);
    this.#floor = dbToGain(-num(params, "reductionDb"));
    this.#fft = new Fft(n);
    this.#window = new Buffer(n * 4);
    const window = hann(n);
    this.#window.f32.set(window);
    this.#outWindow = new Buffer(n * 4);
    this.#outWindow.f32.set(window.map((w) => w / (n * WINDOW_SUM)));
    this.#input = new Buffer(n * 8);
    this.#output = new Buffer(n * 8);
    this.#spectra = Array.from({ length: MOST_AROUND + 1 }, () => new Buffer(n * 8));
    const row = this.#padded * 4;
    this.#inverse = new Buffer(row);
    this.#power = new Buffer(row);
    this.#work = new Buffer(row);
    this.#gains = new Buffer(row);
    this.#ratios = new Buffer(row * ROWS);
    const energy = window.reduce((a, w) => a + w * w, 0);
    this.#inverse.f32.fill(1);
    this.#inverse.f32.set(
      powerAtRate(profileFromText(profile), sampleRate).map((p) => 1 / Math.max(LEAST_NOISE, p * energy))
    );
    this.#steady = this.#inverse.f32.slice();
    this.#track = track;
    this.#shares = track.length > 0 ? partShares(this.#bins, sampleRate / n) : [];
    this.#position = position;
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
      this.#position += m;
      done += m;
      if (this.#at < this.#hop) continue;
      if (this.#track.length > 0) this.#follow();
      this.#analyse();
      this.#synthesize();
      this.#at = 0;
    }
  }

  /** The noise as it is in the middle of the newest frame. */
  #follow(): void {
    const offsets = offsetsAt(this.#track, this.#position - this.#n / 2);
    const name = offsets.join(" ");
    if (name === this.#offsets) return;
    this.#offsets = name;
    const inverse = this.#inverse.f32;
    for (let k = 0; k < this.#bins; k++)
      inverse[k] = this.#steady[k] * powerFactor(this.#shares, k, offsets, -1);
  }

  /** The newest frame's spectrum, and how far it stands over the noise. */
  #analyse(): void {
    const n = this.#n;
    const side = n * 4;
    this.#newest = (this.#newest + 1) % this.#spectra.length;
    this.#row = (this.#row + 1) % ROWS;
    const re = this.#spectra[this.#newest].ptr;
    const [fromRe, fromIm] = this.#fft.input(re, re + side);
    kernels.multiply(fromRe, this.#input.ptr, this.#window.ptr, n);
    kernels.multiply(fromIm, this.#input.ptr + side, this.#window.ptr, n);
    this.#fft.run(re, re + side);
    kernels.pairPower(re, re + side, this.#power.ptr, n);
    const row = this.#ratios.ptr + this.#row * this.#padded * 4;
    kernels.noiseRatio(this.#power.ptr, this.#inverse.ptr, this.#work.ptr, row, this.#bins);
    for (let c = 0; c < 2; c++) {
      const input = this.#input.ptr + c * side;
      kernels.copy(input, input + this.#hop * 4, n - this.#hop);
    }
  }

  /** The frame that has as many followers as the longest averaging wants. */
  #synthesize(): void {
    const n = this.#n;
    const side = n * 4;
    const rows = 2 * this.#around + 1;
    const first = (this.#row + ROWS - MOST_AROUND - this.#around) % ROWS;
    kernels.subtractionGains(
      this.#ratios.ptr,
      this.#padded * 4,
      ROWS,
      first,
      rows,
      this.#gains.ptr,
      this.#padded,
      this.#over,
      this.#floor
    );
    const re = this.#spectra[(this.#newest + 1) % this.#spectra.length].ptr;
    const im = re + side;
    // Real and imaginary parts exchanged: the inverse transform, whose scale is in the window.
    const [fromIm, fromRe] = this.#fft.input(im, re);
    kernels.pairGain(re, im, this.#gains.ptr, n, fromRe, fromIm);
    this.#fft.run(im, re);
    // The oldest hop is finished; the rest moves up and the new frame is added.
    const rest = n - this.#hop;
    for (let c = 0; c < 2; c++) {
      const out = this.#output.ptr + c * side;
      kernels.copy(out, out + this.#hop * 4, rest);
      kernels.clear(out + rest * 4, this.#hop);
      kernels.multiplyAdd(out, c === 0 ? re : im, this.#outWindow.ptr, n);
    }
  }

  release(): void {
    for (const b of [
      this.#fft,
      this.#window,
      this.#outWindow,
      this.#input,
      this.#output,
      this.#inverse,
      this.#power,
      this.#work,
      this.#gains,
      this.#ratios,
      ...this.#spectra
    ])
      b.release();
  }
}

function create(params: Params, sampleRate: number, place: Place): Processor {
  const carried = choice(params, "source") === "carried" ? (params.profile as string) : "";
  const asks = choice(params, "source") === "ask";
  const profile = asks ? "" : carried || String(place.learnt?.values.profile ?? "");
  // Without a profile there is nothing to reduce: the sound passes as it is, delayed alike.
  if (profile === "") return new DelayLine(latency(sampleRate));
  const track = carried ? "" : String(place.learnt?.values.track ?? "");
  const nodes = track === "" ? [] : trackFromText(track);
  const processor = new NoiseReduction(params, sampleRate, profile, nodes, place.position);
  return withMix(processor, latency(sampleRate), num(params, "mixPercent"));
}

/** Longest text of where a profile is from. */
const FROM_MOST = 200;
const SOURCE_WORDS: Record<string, string> = {
  learn: "learns",
  carried: "carried profile",
  ask: "asks for a profile"
};

export const noiseReduction: EffectDescription = {
  id: "noise-reduction",
  name: "Noise reduction",
  group: "repair",
  help: "Takes steady noise away: hiss, wind, air conditioning.",
  keywords: ["denoise", "hiss", "clean", "restore", "background"],
  params: [
    choiceParam(
      "source",
      "Noise",
      [
        ["learn", "Learn from this sound"],
        ["carried", "Carry a profile"],
        ["ask", "Ask for a profile"]
      ],
      "Learn: the steady noise in whatever it treats, if there is any; a stretch of it alone is not needed. Carry: the profile that was learnt goes wherever this step goes. Ask: nothing is taken until one is learnt."
    ),
    {
      kind: "data",
      id: "profile",
      name: "Profile",
      default: "",
      fault: profileFault,
      help: "The carried profile, learnt from a stretch with noise alone."
    },
    {
      kind: "data",
      id: "profileFrom",
      name: "Profile from",
      default: "",
      hidden: true,
      fault: (text) =>
        text.length > FROM_MOST ? `must not be longer than ${FROM_MOST} characters` : undefined,
      help: "Where the carried profile was learnt, in words."
    },
    numberParam(
      ["reductionDb", "Reduction", "dB", 0, 60, 18, 1, 1],
      "How far the noise is taken down; a moderate hand sounds most natural."
    ),
    numberParam(
      ["sensitivityDb", "Sensitivity", "dB", -12, 18, 3.5, 1, 0.5],
      "How far above the learnt noise sound still counts as noise."
    ),
    numberParam(
      ["smoothingPercent", "Smoothing", "%", 0, 100, 50, 0, 25],
      "More: no chirping remains; less: beginnings stay sharper."
    ),
    mixParam()
  ],
  presets: [
    { name: "Light", params: { reductionDb: 10, sensitivityDb: 2.5 } },
    { name: "Strong", params: { reductionDb: 26, sensitivityDb: 5, smoothingPercent: 75 } }
  ],
  summary: (params) =>
    `-${formatDb(num(params, "reductionDb"))} dB, ${SOURCE_WORDS[choice(params, "source")]}`,
  latency,
  settle: (_params, sampleRate) => 4 * latency(sampleRate),
  streamsWith: {
    params: { source: "carried" },
    holds: (params) => choice(params, "source") !== "learn",
    why: "it carries a profile"
  },
  learns: (params) =>
    choice(params, "source") === "learn" || (choice(params, "source") === "carried" && params.profile === ""),
  learn(_params, sampleRate) {
    const finder = new NoiseFinder(sampleRate);
    return {
      push: (l, r, n) => finder.push(l, r, n),
      finish(): Learnt {
        const found = finder.finish();
        if (!found) return { values: { profile: "" } };
        const { profile, levelDb, loudestDb, sure, track } = found;
        return {
          values: {
            profile: profileToText(profile),
            levelDb,
            loudestDb,
            sure: sure ? "sure" : "unsure",
            track: track.length > 0 ? trackToText(track) : ""
          }
        };
      },
      release: () => finder.release()
    };
  },
  found({ profile, levelDb, loudestDb, sure }) {
    if (profile === "") return "No steady noise found: nothing is taken.";
    const [least, most] = [levelDb, loudestDb].map((level) => formatDb(Number(level), 0));
    return `Noise at ${least === most ? least : `${least} to ${most}`} dBFS, ${sure}.`;
  },
  create
};

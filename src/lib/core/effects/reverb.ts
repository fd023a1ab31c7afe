import { DelayLine } from "../audio/delayLine";
import { Buffer } from "../kernels/memory";
import { kernels } from "../kernels/instance";
import { EarlyReflections } from "./earlyReflections";
import { num, type EffectDescription, type Params, type Processor } from "./description";
import { mixParam, numberParam } from "./params";
import { withMix } from "./wetDry";

/** Lines of a room, and of a large one: with few long lines the ear finds each echo again. */
const LINES = 16;
const MANY_LINES = 32;
/** Longest line in seconds from which there are as many. */
const LARGE = 0.06;
/** The kernels compute four frames at once. */
const SHORTEST = 4;
// Lengths of the shortest and longest line in seconds at the smallest and largest size.
const SMALLEST = [0.005, 0.02];
const LARGEST = [0.04, 0.16];
const DIFFUSERS = [0.0023, 0.0041, 0.0067, 0.0113, 0.0179];
/** The longest line as a share of the decay: a sound that passes a line only a few times cannot fall evenly. */
const LONGEST_LINE = 0.07;
/** Share of the energy that comes before the lines. */
const EARLY = 0.2;
// Level of the impulse response, set so that music and its reverb at 100 % are about equally loud.
const LEVEL = 0.7;
/** Where the decay of the highs is set, Hz. */
const HIGH = 8000;

const power = (base: number, exponent: number) => kernels.pow(base, exponent);

function isPrime(n: number): boolean {
  for (let d = 2; d * d <= n; d++) if (n % d === 0) return false;
  return n > 1;
}

/** Different primes near the wanted lengths: echoes of two lines then rarely fall together. */
function primes(wanted: readonly number[]): number[] {
  const taken = new Set<number>();
  return wanted.map((w) => {
    let n = Math.max(SHORTEST, Math.round(w));
    while (taken.has(n) || !isPrime(n)) n++;
    taken.add(n);
    return n;
  });
}

function longestLine(size: number): number {
  return SMALLEST[1] * power(LARGEST[1] / SMALLEST[1], size);
}

/** A share of the size below 1 where the room would be too large for a sound that dies away so soon. */
function fitting(size: number, decay: number): number {
  return Math.min(1, (LONGEST_LINE * decay) / longestLine(size));
}

/** In equal steps, each moved a little: lengths in equal ratios beat. */
function lineLengths(count: number, size: number, share: number, sampleRate: number): number[] {
  const least = SMALLEST[0] * power(LARGEST[0] / SMALLEST[0], size);
  const most = longestLine(size);
  const golden = (Math.sqrt(5) - 1) / 2;
  return primes(
    Array.from({ length: count }, (_, i) => {
      const moved = 0.1 + 0.8 * ((i * golden) % 1);
      return (least + (most - least) * ((i + moved) / count)) * share * sampleRate;
    })
  );
}

/**
 * Gain and pole of a line's low-pass: 60 dB in `decay` seconds at low frequencies and in `decay × high` at 8 kHz, for a line of
 * `length` frames. Jot and Chaigne (1991), with the pole from the wanted ratio of the two gains.
 */
function absorption(
  length: number,
  decay: number,
  high: number,
  sampleRate: number
): readonly [gain: number, pole: number] {
  const db = (-60 * length) / (decay * sampleRate);
  const gain = kernels.exp((db * Math.LN10) / 20);
  const hertz = Math.min(HIGH, sampleRate * 0.4);
  const power = (p: number, f: number) => {
    const c = kernels.cos((2 * Math.PI * f) / sampleRate);
    return (1 - p) ** 2 / (1 - 2 * p * c + p * p);
  };
  // |H|² = K at 8 kHz: p² (1 - K) - 2 p (1 - K c) + (1 - K) = 0.
  const K = kernels.exp(((db / high - db) * Math.LN10) / 10);
  const c = kernels.cos((2 * Math.PI * hertz) / sampleRate);
  const b = (1 - K * c) / (1 - K);
  const pole = K >= 1 ? 0 : b - Math.sqrt(b * b - 1);
  // The low-pass takes a little at 700 Hz too; that is given back, so that the middle keeps the set decay.
  const middle = Math.min(700, sampleRate * 0.1);
  return [Math.min(0.99999, gain / Math.sqrt(power(pole, middle))), pole];
}

/** A ring of the diffusion: an allpass of one channel. */
class Diffuser {
  readonly #ring: Buffer;
  #index = 0;

  constructor(
    readonly frames: number,
    readonly gain: number
  ) {
    this.#ring = new Buffer(frames * 4);
  }

  process(x: number, n: number): void {
    this.#index = kernels.allpass(x, n, this.#ring.ptr, this.frames, this.#index, this.gain);
  }

  release(): void {
    this.#ring.release();
  }
}

class Reverb implements Processor {
  readonly #preDelay: DelayLine;
  /** Those of the left and the right side alternately. */
  readonly #diffusers: readonly Diffuser[];
  /** Length and place in the memory of each line. */
  readonly #rings: Buffer;
  readonly #gains: Buffer;
  readonly #state = new Buffer(1152);
  readonly #lines: number;
  readonly #memory: Buffer;
  readonly #early: EarlyReflections;
  readonly #near: number;
  readonly #far: number;

  constructor(params: Params, sampleRate: number) {
    const decay = num(params, "decayS");
    const size = num(params, "sizePercent") / 100;
    const share = fitting(size, decay);
    const lines = longestLine(size) * share < LARGE ? LINES : MANY_LINES;
    this.#lines = lines;
    this.#rings = new Buffer(lines * 8);
    this.#gains = new Buffer(lines * 8);
    let offset = 0;
    let energy = 0;
    const lengths = lineLengths(lines, size, share, sampleRate);
    lengths.forEach((length, i) => {
      this.#rings.i32.set([length, offset], i * 2);
      offset += length;
      const [gain, pole] = absorption(length, decay, num(params, "highDecayPercent") / 100, sampleRate);
      this.#gains.f32[i] = (gain * (1 - pole)) / Math.sqrt(lines);
      this.#gains.f32[lines + i] = pole;
      energy += (gain * gain) / (1 - gain * gain) / lines;
    });
    this.#memory = new Buffer((offset + 3) * 4);
    const scale = (size + 0.25) * share * share;
    // The right side's diffusers are a little longer, so that the sides differ from the first echo on.
    const stages = primes(DIFFUSERS.flatMap((s) => [s * scale * sampleRate, s * 1.13 * scale * sampleRate]));
    const diffusion = (num(params, "diffusionPercent") / 100) * 0.75;
    this.#diffusers = stages.map((length) => new Diffuser(length, diffusion));
    this.#preDelay = new DelayLine(Math.round((num(params, "preDelayMs") / 1000) * sampleRate));
    // Each side excites half of the lines; every pass gives the lines' energy to both outputs.
    const level = LEVEL * Math.sqrt((2 * (1 - EARLY)) / energy);
    this.#early = new EarlyReflections(
      Math.min(...lengths),
      decay * sampleRate,
      (EARLY * LEVEL * LEVEL) / (level * level)
    );
    const width = num(params, "widthPercent") / 100;
    this.#near = (level * (1 + width)) / 2;
    this.#far = (level * (1 - width)) / 2;
  }

  process(l: number, r: number, n: number): void {
    this.#preDelay.process(l, r, n);
    for (let i = 0; i < this.#diffusers.length; i++) this.#diffusers[i].process(i % 2 === 0 ? l : r, n);
    this.#early.hear(l, r, n);
    kernels.reverb(l, r, n, this.#lines, this.#rings.ptr, this.#gains.ptr, this.#state.ptr, this.#memory.ptr);
    this.#early.add(l, r, n);
    kernels.matrix(l, r, n, this.#near, this.#far, this.#far, this.#near);
  }

  release(): void {
    for (const b of [
      this.#rings,
      this.#gains,
      this.#state,
      this.#memory,
      this.#preDelay,
      this.#early,
      ...this.#diffusers
    ])
      b.release();
  }
}

export const reverb: EffectDescription = {
  id: "reverb",
  name: "Reverb",
  group: "space",
  help: "A room around the sound, from a small one to a cathedral.",
  keywords: ["room", "hall", "church", "space", "ambience", "echo"],
  params: [
    numberParam(
      ["sizePercent", "Size", "%", 0, 100, 40, 0, 5],
      "Distance of the walls: 0 % a closet, 100 % a cathedral."
    ),
    numberParam(
      ["decayS", "Decay", "s", 0.1, 20, 1.4, 2, 0.1],
      "Time in which the sound falls by 60 dB (ISO 3382).",
      "log"
    ),
    numberParam(
      ["highDecayPercent", "High decay", "%", 25, 100, 55, 0, 5],
      "Decay at 8 kHz as a share of the decay below 1 kHz: soft walls swallow highs."
    ),
    numberParam(["preDelayMs", "Pre-delay", "ms", 0, 250, 12, 0, 1], "Time before the first reflection."),
    numberParam(
      ["diffusionPercent", "Diffusion", "%", 0, 100, 85, 0, 5],
      "How soon single echoes blur into one."
    ),
    numberParam(["widthPercent", "Width", "%", 0, 100, 100, 0, 5], "How far the sides differ: 0 % is mono."),
    mixParam(25, "Share of the reverb; 0 % is the untreated sound.")
  ],
  presets: [
    {
      name: "Wheelhouse",
      params: { sizePercent: 5, decayS: 0.35, highDecayPercent: 40, preDelayMs: 2, mixPercent: 18 }
    },
    { name: "Living room", params: { sizePercent: 20, decayS: 0.6, preDelayMs: 5, mixPercent: 20 } },
    { name: "Concert hall", params: { sizePercent: 65, decayS: 2.2, preDelayMs: 25, mixPercent: 28 } },
    {
      name: "Cathedral",
      params: { sizePercent: 100, decayS: 6.5, highDecayPercent: 45, preDelayMs: 45, mixPercent: 35 }
    }
  ],
  summary: (params) => `${num(params, "decayS").toFixed(1)} s, ${num(params, "mixPercent")} %`,
  latency: () => 0,
  settle: (params, sampleRate) => Math.ceil((num(params, "decayS") * 2 + 0.5) * sampleRate),
  tail: (params, sampleRate) => Math.ceil((num(params, "decayS") * 1.5 + 0.4) * sampleRate),
  gap: (params, sampleRate) => Math.ceil((num(params, "preDelayMs") / 1000 + 0.1) * sampleRate),
  widens: (params) => num(params, "widthPercent") > 0 && num(params, "mixPercent") > 0,
  create: (params, sampleRate) => withMix(new Reverb(params, sampleRate), 0, num(params, "mixPercent"))
};

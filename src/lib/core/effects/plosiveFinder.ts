// Where a speaker's breath struck the microphone: short bursts below 65 Hz that stand out of the sound's own low level and of the voice, and how far
// what lies below 110 Hz is turned down there. Thresholds: found by trial on recorded speech.
import { BiquadCascade } from "../audio/biquadCascade";
import { matchedSection, type Section } from "../audio/biquadDesign";
import { BLOCK, StereoBlock } from "../audio/block";
import { Resampler } from "../audio/resampler";
import { percentile } from "../audio/statistics";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";

/** Values a second of what it works on, and hertz at which low sound is kept. */
export const PLOSIVE_STEPS = 200;
const LOW_RATE = 2000;
const HOP = LOW_RATE / PLOSIVE_STEPS;
/** Hops of the window of a level: 30 ms. */
const WINDOW = 6;
const BURST_HZ = [12, 65] as const;
const VOICE_HZ = [200, 4000] as const;
export const SPLIT_HZ = 110;
const BUTTERWORTH = Math.SQRT1_2;
/** Moments of the voice count that lie no further under its loud ones. */
const LIVE_PERCENTILE = 0.95;
const LIVE_DB = 30;
const USUAL_PERCENTILE = 0.6;
/** The voice within 50 ms hides a burst that lies so far under it. */
const HIDING_HOPS = 10;
const UNDER_VOICE_DB = 12;
const LEAST_DB = -45;
/** Bursts this near are one; they last so long, and rise and fall by so much within so long. */
const JOIN_HOPS = 8;
const SHORTEST_HOPS = 2;
const LONGEST_HOPS = 50;
const RISE_DB = 12;
const RISE_HOPS = 30;
const FALL_HOPS = 50;
/** A gain reaches so far beyond its burst, and is smoothed. */
const BEYOND_HOPS = 8;
const HOLD_HOPS = 2;

/** One burst: gains in dB for what lies below SPLIT_HZ, PLOSIVE_STEPS a second. */
export interface Plosive {
  /** Step of the first gain, counted from the sound's first frame. */
  readonly step: number;
  readonly gains: readonly number[];
}

export interface PlosiveLimits {
  /** dB by which a burst stands out of the usual low level. */
  readonly overDb: number;
  /** Most that is taken, dB. */
  readonly mostDb: number;
}

const level = (power: number) => powerToDb(Math.max(1e-12, power));

function filtered(x: Float32Array, [b0, b1, b2, a1, a2]: Section): Float32Array {
  let [s1, s2] = [0, 0];
  return x.map((v) => {
    const y = b0 * v + s1;
    s1 = b1 * v - a1 * y + s2;
    s2 = b2 * v - a2 * y;
    return y;
  });
}

/** Forwards and backwards: no delay, twice the slope. */
function zeroPhase(x: Float32Array, sections: readonly Section[]): Float32Array {
  let y = x;
  for (let way = 0; way < 2; way++) {
    for (const section of sections) y = filtered(y, section);
    y = y.slice().reverse();
  }
  return y;
}

function sectionAt(type: "highPass" | "lowPass", hertz: number, rate: number): Section {
  return matchedSection(type, 1, BUTTERWORTH, (2 * Math.PI * hertz) / rate);
}

/** Levels in dB of the windows around steps, from the mean power of each step. */
function levels(powers: Float64Array): Float64Array {
  const sums = new Float64Array(powers.length + 1);
  powers.forEach((p, i) => (sums[i + 1] = sums[i] + p));
  return powers.map((_, i) => {
    const from = Math.max(0, i - WINDOW / 2);
    const to = Math.min(powers.length, i + WINDOW / 2);
    return level((sums[to] - sums[from]) / (to - from));
  });
}

function powersOf(x: Float32Array): Float64Array {
  return Float64Array.from({ length: Math.ceil(x.length / HOP) }, (_, s) => {
    let sum = 0;
    for (let i = s * HOP; i < (s + 1) * HOP; i++) sum += (x[i] ?? 0) ** 2;
    return sum / HOP;
  });
}

function extreme(values: Float64Array, from: number, to: number, of: (...all: number[]) => number): number {
  let found = values[Math.max(0, Math.min(values.length - 1, from))];
  for (let i = Math.max(0, from); i < Math.min(values.length, to); i++) found = of(found, values[i]);
  return found;
}

export class PlosiveFinder {
  readonly #block = new StereoBlock(BLOCK);
  readonly #voice: BiquadCascade;
  readonly #resampler: Resampler;
  #low = new Float32Array(LOW_RATE);
  #lows = 0;
  readonly #voicePowers: number[] = [];
  readonly #stepFrames: number;
  #power = 0;
  #at = 0;

  /** @param frames frames that will come */
  constructor(
    sampleRate: number,
    private readonly frames: number
  ) {
    this.#stepFrames = sampleRate / PLOSIVE_STEPS;
    this.#resampler = new Resampler(sampleRate, LOW_RATE);
    this.#voice = new BiquadCascade([
      sectionAt("highPass", VOICE_HZ[0], sampleRate),
      sectionAt("lowPass", Math.min(VOICE_HZ[1], 0.4 * sampleRate), sampleRate)
    ]);
  }

  #keep(made: Float32Array): void {
    if (this.#lows + made.length > this.#low.length) {
      const larger = new Float32Array(2 * (this.#lows + made.length));
      larger.set(this.#low.subarray(0, this.#lows));
      this.#low = larger;
    }
    this.#low.set(made, this.#lows);
    this.#lows += made.length;
  }

  /** Takes n ≤ BLOCK frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    const { left, right } = this.#block;
    kernels.clear(left.ptr, n);
    kernels.addScaled(left.ptr, l, n, 0.5);
    kernels.addScaled(left.ptr, r, n, 0.5);
    const middle = left.f32.subarray(0, n);
    this.#resampler.push(middle, middle, (made) => this.#keep(made));
    this.#voice.process(left.ptr, right.ptr, n);
    const voice = left.f32;
    for (let i = 0; i < n; i++) {
      this.#power += voice[i] * voice[i];
      this.#at++;
      if (this.#at < (this.#voicePowers.length + 1) * this.#stepFrames) continue;
      this.#voicePowers.push(this.#power / this.#stepFrames);
      this.#power = 0;
    }
  }

  finish({ overDb, mostDb }: PlosiveLimits): Plosive[] {
    this.#resampler.end((made) => this.#keep(made));
    const steps = Math.min(this.#voicePowers.length, Math.floor(this.frames / this.#stepFrames));
    if (steps === 0) return [];
    const low = this.#low.subarray(0, Math.min(this.#lows, steps * HOP));
    const burst = levels(
      powersOf(
        zeroPhase(low, [
          sectionAt("highPass", BURST_HZ[0], LOW_RATE),
          sectionAt("lowPass", BURST_HZ[1], LOW_RATE)
        ])
      )
    );
    const below = levels(powersOf(zeroPhase(low, [sectionAt("lowPass", SPLIT_HZ, LOW_RATE)])));
    const voice = levels(Float64Array.from(this.#voicePowers.slice(0, steps)));
    const loud = percentile(voice, LIVE_PERCENTILE) - LIVE_DB;
    const live = (x: Float64Array) => x.filter((_, i) => (voice[i] ?? -Infinity) > loud);
    const usual = percentile(live(burst), USUAL_PERCENTILE);
    const usualBelow = percentile(live(below), USUAL_PERCENTILE);
    const stands = Array.from(burst, (b, i) => {
      const hidden = extreme(voice, i - HIDING_HOPS, i + HIDING_HOPS + 1, Math.max);
      return b > usual + overDb && b > hidden - UNDER_VOICE_DB && b > LEAST_DB;
    });
    return this.#bursts(stands)
      .filter(([from, to]) => comesAndGoes(burst, from, to))
      .map(([from, to]) => gainsOf(below, usualBelow, mostDb, from, to));
  }

  /** Stretches that stand out, those near each other as one. */
  #bursts(stands: readonly boolean[]): [from: number, to: number][] {
    const out: [number, number][] = [];
    stands.forEach((is, i) => {
      if (!is) return;
      const last = out[out.length - 1];
      if (last && i - last[1] <= JOIN_HOPS) last[1] = i + 1;
      else out.push([i, i + 1]);
    });
    return out;
  }

  release(): void {
    this.#block.release();
    this.#voice.release();
    this.#resampler.release();
  }
}

/** Longer than a burst are notes and rumble, and these rise and fall slowly. */
function comesAndGoes(burst: Float64Array, from: number, to: number): boolean {
  if (to - from < SHORTEST_HOPS || to - from > LONGEST_HOPS) return false;
  const most = extreme(burst, from, to, Math.max);
  return (
    most - extreme(burst, from - RISE_HOPS, from + 1, Math.min) > RISE_DB &&
    most - extreme(burst, to - 1, to + FALL_HOPS, Math.min) > RISE_DB
  );
}

/** Gains that bring the low part down to its usual level, from none to none. */
function gainsOf(below: Float64Array, usual: number, mostDb: number, from: number, to: number): Plosive {
  const first = Math.max(0, from - BEYOND_HOPS);
  const last = Math.min(below.length, to + BEYOND_HOPS);
  const raw = Float64Array.from({ length: last - first }, (_, i) =>
    Math.max(-mostDb, Math.min(0, usual - below[first + i]))
  );
  const held = raw.map((_, i) => extreme(raw, i - HOLD_HOPS, i + HOLD_HOPS + 1, Math.min));
  const smooth = Array.from(held, (g, i) => {
    const [before, after] = [held[i - 1] ?? 0, held[i + 1] ?? 0];
    return Math.round((0.5 * g + 0.25 * (before + after)) * 10) / 10;
  });
  return { step: first - 1, gains: [0, ...smooth, 0] };
}

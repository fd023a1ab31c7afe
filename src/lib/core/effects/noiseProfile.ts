// What a noise reduction knows of a noise: its power at each frequency, as text that chains and files can carry.
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";
import { frameSize, PowerFrames } from "./powerFrames";

const FORMAT = /^noise\/1 (\d{4,6}) ([A-Za-z0-9+/=]{8,24000})$/;
// One byte a bin: 0.5 dB steps down from this level.
const TOP_DB = 20;
const STEP_DB = 0.5;

export interface NoiseProfile {
  readonly sampleRate: number;
  /** Power of both channels together in each bin 0 … n/2 of a Hann-windowed transform, divided by the window's energy. */
  readonly power: Float64Array;
}

/** A profile's power from the mean power of windows: over three bins, since neighbours differ by chance. energy: of the window. */
export function smoothedProfile(mean: Float64Array, energy: number): Float64Array {
  return mean.map((p, k) => ((mean[k - 1] ?? p) + 2 * p + (mean[k + 1] ?? p)) / (4 * energy));
}

export function profileToText({ sampleRate, power }: NoiseProfile): string {
  const bytes = Array.from(power, (p) => {
    const step = Math.round((TOP_DB - powerToDb(p)) / STEP_DB);
    return String.fromCharCode(Math.max(0, Math.min(255, step)));
  });
  return `noise/1 ${sampleRate} ${btoa(bytes.join(""))}`;
}

/** Why a text is no profile, as a sentence's end; undefined when it is one. */
export function profileFault(text: string): string | undefined {
  const match = FORMAT.exec(text);
  if (!match) return 'must be a noise profile ("noise/1 …"), as learn-noise writes it';
  const rate = Number(match[1]);
  if (rate < 8000 || rate > 384000) return "names a sample rate outside 8 to 384 kHz";
  const bins = frameSize(rate) / 2 + 1;
  const bytes = match[2].length % 4 === 0 ? atob(match[2]).length : -1;
  return bytes === bins ? undefined : `must hold ${bins} bins for ${rate} Hz`;
}

/** @throws when `profileFault` finds a fault */
export function profileFromText(text: string): NoiseProfile {
  const match = FORMAT.exec(text);
  const fault = profileFault(text);
  if (!match || fault) throw new Error(`A noise profile ${fault}.`);
  const raw = atob(match[2]);
  const power = Float64Array.from(raw, (c) =>
    kernels.exp(((TOP_DB - c.charCodeAt(0) * STEP_DB) * Math.LN10) / 10)
  );
  return { sampleRate: Number(match[1]), power };
}

/** The profile's power at the bins of another rate's transform, straight between its own; beyond its top as at its top. */
export function powerAtRate(profile: NoiseProfile, sampleRate: number): Float64Array {
  const n = frameSize(sampleRate);
  const own = frameSize(profile.sampleRate);
  const last = profile.power.length - 1;
  return Float64Array.from({ length: n / 2 + 1 }, (_, k) => {
    const x = Math.min(last, ((k * sampleRate) / n) * (own / profile.sampleRate));
    const i = Math.min(last - 1, Math.floor(x));
    return profile.power[i] + (profile.power[i + 1] - profile.power[i]) * (x - i);
  });
}

/** Learns a profile from all that it hears: of a stretch with noise alone. */
export class NoiseLearner {
  readonly #frames: PowerFrames;
  readonly #total: Float64Array;
  #count = 0;

  constructor(private readonly sampleRate: number) {
    this.#frames = new PowerFrames(sampleRate);
    this.#total = new Float64Array(this.#frames.size / 2 + 1);
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    this.#frames.push(l, r, n, (power) => {
      // Digital silence is no noise: nothing can be learnt from it.
      if (power.every((p) => p === 0)) return;
      power.forEach((p, k) => (this.#total[k] += p));
      this.#count++;
    });
  }

  /** The profile; undefined when nothing was heard, or nothing but digital silence, or too little of it. */
  finish(): NoiseProfile | undefined {
    if (this.#count === 0) return undefined;
    const mean = this.#total.map((p) => p / this.#count);
    return { sampleRate: this.sampleRate, power: smoothedProfile(mean, this.#frames.energy) };
  }

  release(): void {
    this.#frames.release();
  }
}

// What a noise reduction knows of a noise: its power at each frequency, as text that chains and files can carry.
import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { powerToDb } from "../units/decibels";

const FORMAT = /^noise\/1 (\d{4,6}) ([A-Za-z0-9+/=]{8,24000})$/;
// One byte a bin: 0.5 dB steps down from this level.
const TOP_DB = 20;
const STEP_DB = 0.5;
const FRAME_SECONDS = 0.0427;
const STRETCH_SECONDS = 0.5;
// The quietest of many stretches lies below the mean by chance; measured on pink noise: about 1 dB.
const QUIETEST_BIAS = 1.25;

/** Frames of a transform at a sample rate: about 43 ms, 2048 at 48 kHz. */
export function frameSize(sampleRate: number): number {
  let n = 256;
  while (n * 1.42 < FRAME_SECONDS * sampleRate) n *= 2;
  return n;
}

export interface NoiseProfile {
  readonly sampleRate: number;
  /** Power of both channels together in each bin 0 … n/2 of a Hann-windowed transform, divided by the window's energy. */
  readonly power: Float64Array;
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

/** Learns a profile from all that it hears, or from the quietest half second of it. */
export class NoiseLearner {
  readonly #n: number;
  readonly #hop: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #input: Buffer;
  readonly #work: Buffer;
  readonly #power: Buffer;
  readonly #stretch: number;
  readonly #frames: Float64Array[] = [];
  readonly #total: Float64Array;
  #count = 0;
  #best: Float64Array | undefined;
  #bestEnergy = Infinity;
  #have = 0;

  constructor(
    private readonly sampleRate: number,
    private readonly quietest: boolean
  ) {
    this.#n = frameSize(sampleRate);
    this.#hop = this.#n / 2;
    this.#fft = new Fft(this.#n);
    this.#window = new Buffer(this.#n * 4);
    this.#window.f32.set(hann(this.#n));
    this.#input = new Buffer(this.#n * 8);
    this.#work = new Buffer(this.#n * 8);
    this.#power = new Buffer((this.#n / 2 + 4) * 4);
    this.#stretch = Math.max(4, Math.round((STRETCH_SECONDS * sampleRate) / this.#hop));
    this.#total = new Float64Array(this.#n / 2 + 1);
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    const { ptr } = this.#input;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#n - this.#have);
      kernels.copy(ptr + this.#have * 4, l + done * 4, m);
      kernels.copy(ptr + (this.#n + this.#have) * 4, r + done * 4, m);
      this.#have += m;
      done += m;
      if (this.#have < this.#n) continue;
      this.#frame();
      kernels.copy(ptr, ptr + this.#hop * 4, this.#n - this.#hop);
      kernels.copy(ptr + this.#n * 4, ptr + (this.#n + this.#hop) * 4, this.#n - this.#hop);
      this.#have = this.#n - this.#hop;
    }
  }

  #frame(): void {
    const re = this.#work.ptr;
    const im = re + this.#n * 4;
    kernels.multiply(re, this.#input.ptr, this.#window.ptr, this.#n);
    kernels.multiply(im, this.#input.ptr + this.#n * 4, this.#window.ptr, this.#n);
    this.#fft.forward(re, im);
    kernels.pairPower(re, im, this.#power.ptr, this.#n);
    const power = Float64Array.from(this.#power.f32.subarray(0, this.#n / 2 + 1));
    // Digital silence is no noise: nothing can be learnt from it.
    if (power.every((p) => p === 0)) {
      this.#frames.length = 0;
      return;
    }
    if (!this.quietest) {
      power.forEach((p, k) => (this.#total[k] += p));
      this.#count++;
      return;
    }
    this.#frames.push(power);
    if (this.#frames.length < this.#stretch) return;
    if (this.#frames.length > this.#stretch) this.#frames.shift();
    const mean = new Float64Array(power.length);
    for (const frame of this.#frames) frame.forEach((p, k) => (mean[k] += p / this.#frames.length));
    const energy = mean.reduce((a, b) => a + b, 0);
    if (energy >= this.#bestEnergy) return;
    this.#bestEnergy = energy;
    this.#best = mean;
  }

  /** The profile; undefined when nothing was heard, or nothing but digital silence, or too little of it. */
  finish(): NoiseProfile | undefined {
    const mean = this.quietest
      ? this.#best
      : this.#count > 0
        ? this.#total.map((p) => p / this.#count)
        : undefined;
    if (!mean) return undefined;
    const energy = this.#window.f32.reduce((a, w) => a + w * w, 0);
    // Neighbouring bins of one stretch differ by chance; a mean over three is nearer to the noise itself.
    const scale = (this.quietest ? QUIETEST_BIAS : 1) / (4 * energy);
    const smooth = mean.map((p, k) => ((mean[k - 1] ?? p) + 2 * p + (mean[k + 1] ?? p)) * scale);
    return { sampleRate: this.sampleRate, power: smooth };
  }

  release(): void {
    for (const b of [this.#fft, this.#window, this.#input, this.#work, this.#power]) b.release();
  }
}

// Listens to a sound and finds its hum, stretch by stretch: of a long recording only so much is kept at a time.
import { Resampler } from "../audio/resampler";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";
import { HUM_RATE, humOf, MOST_LINES } from "./humStretch";
import { trackOf, type HumTrack, type Weight } from "./humTrack";

const STRETCH_SECONDS = 40;
/** So much of the neighbours is listened to on both sides, and over so much one is faded into the other. */
const CONTEXT_SECONDS = 8;
const FADE_SECONDS = 1;

/** EN 50160: the mains of Europe, of the Americas. */
export const MAINS_HZ: readonly number[] = [50, 60];

export interface HumFound {
  readonly tracks: readonly HumTrack[];
  /** Mean frequency, Hz. */
  readonly hertz: number;
  /** Numbers of the lines, ascending. */
  readonly numbers: readonly number[];
  /** RMS of the hum while it is there, dBFS. */
  readonly levelDb: number;
  /** Part of the time for which it is there, 0 to 1. */
  readonly share: number;
}

export interface HumWanted {
  /** Hz that come into question; MAINS_HZ unless said. */
  readonly mains?: readonly number[];
  /** Lines that are looked for, at most 60. */
  readonly lines?: number;
}

export class HumFinder {
  readonly #resampler: Resampler;
  readonly #mains: readonly number[];
  readonly #lines: number;
  readonly #stretches: number;
  readonly #left: Float32Array;
  readonly #right: Float32Array;
  /** Sample at HUM_RATE of the first that is kept, and how many are. */
  #first = 0;
  #have = 0;
  #next = 0;
  readonly #tracks: HumTrack[] = [];
  readonly #numbers = new Set<number>();
  #hertz = 0;
  #power = 0;
  #periods = 0;
  #all = 0;

  /** @param frames frames that will come */
  constructor(
    private readonly sampleRate: number,
    private readonly frames: number,
    { mains = MAINS_HZ, lines = MOST_LINES }: HumWanted = {}
  ) {
    this.#mains = mains;
    this.#lines = Math.min(lines, MOST_LINES, Math.floor((0.45 * sampleRate) / Math.max(...mains)));
    const seconds = frames / sampleRate;
    this.#stretches = Math.max(1, Math.round(seconds / STRETCH_SECONDS));
    const room = Math.ceil((seconds / this.#stretches + 2 * CONTEXT_SECONDS + 1) * HUM_RATE);
    this.#left = new Float32Array(room);
    this.#right = new Float32Array(room);
    this.#resampler = new Resampler(sampleRate, HUM_RATE);
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    const view = (at: number) => new Float32Array(kernels.memory.buffer, at, n);
    this.#resampler.push(view(l), view(r), (left, right) => this.#take(left, right));
  }

  /** Second at which stretch s begins. */
  #border(s: number): number {
    return (s * this.frames) / this.sampleRate / this.#stretches;
  }

  #take(left: Float32Array, right: Float32Array): void {
    for (let done = 0; done < left.length;) {
      const m = Math.min(left.length - done, this.#left.length - this.#have);
      this.#left.set(left.subarray(done, done + m), this.#have);
      this.#right.set(right.subarray(done, done + m), this.#have);
      this.#have += m;
      done += m;
      const enough = Math.ceil((this.#border(this.#next + 1) + CONTEXT_SECONDS) * HUM_RATE);
      const last = this.#next === this.#stretches - 1;
      if (last && this.#have === this.#left.length) return;
      if (!last && this.#first + this.#have >= enough) this.#listen();
    }
  }

  /** Finds the hum of the next stretch, and lets go what is no longer needed. */
  #listen(): void {
    const { sampleRate } = this;
    const s = this.#next++;
    const until = this.#stretches === this.#next ? Infinity : this.#border(s + 1) + CONTEXT_SECONDS;
    const end = Math.min(this.#have, Math.ceil(until * HUM_RATE) - this.#first);
    const left = this.#left.subarray(0, end);
    const right = this.#right.subarray(0, end);
    const sound = left.every((x, i) => x === right[i]) ? [left] : [left, right];
    const hum = humOf(sound, this.#mains, this.#lines);
    if (hum) {
      const [from, to] = [this.#border(s) * sampleRate, this.#border(s + 1) * sampleRate];
      const fade = FADE_SECONDS * sampleRate;
      const weight: Weight = (frame) => {
        const before = s === 0 ? 1 : (frame - from) / fade + 0.5;
        const after = this.#next === this.#stretches ? 1 : (to - frame) / fade + 0.5;
        return Math.max(0, Math.min(1, before, after));
      };
      this.#tracks.push(trackOf(hum, (this.#first * sampleRate) / HUM_RATE, sampleRate, weight));
      const on = hum.on.reduce((a, b) => a + b, 0);
      hum.numbers.forEach((k) => this.#numbers.add(k));
      this.#hertz += hum.hertz * on;
      this.#power += hum.power * on;
      this.#periods += on;
      this.#all += hum.on.length;
    } else this.#all += Math.max(1, Math.round((end / HUM_RATE) * this.#mains[0]));
    const keep = Math.max(0, Math.floor((this.#border(s + 1) - CONTEXT_SECONDS) * HUM_RATE) - this.#first);
    const dropped = Math.min(keep, this.#have);
    this.#left.copyWithin(0, dropped, this.#have);
    this.#right.copyWithin(0, dropped, this.#have);
    this.#first += dropped;
    this.#have -= dropped;
  }

  /** undefined when there is no hum. */
  finish(): HumFound | undefined {
    this.#resampler.end((left, right) => this.#take(left, right));
    const length = Math.round((this.frames * HUM_RATE) / this.sampleRate);
    this.#have = Math.min(this.#have, length - this.#first);
    while (this.#next < this.#stretches) this.#listen();
    if (this.#tracks.length === 0) return undefined;
    return {
      tracks: this.#tracks,
      hertz: this.#hertz / this.#periods,
      numbers: [...this.#numbers].sort((a, b) => a - b),
      levelDb: powerToDb(this.#power / this.#periods),
      share: this.#periods / this.#all
    };
  }

  release(): void {
    this.#resampler.release();
  }
}

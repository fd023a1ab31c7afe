import { percentile } from "../../audio/statistics";
import { PowerFrames } from "../../effects/powerFrames";
import { powerToDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type FindingPlace, type Look } from "./finding";

/** The last bin of the mean spectrum that lies so far under its top. */
const UNDER_TOP_DB = 72;
const HIGHEST_SHARE = 0.42;
/** There it falls by so much within ± 800 Hz, and just below it is within so much of the top. */
const FALL_DB = 40;
const AROUND_HZ = 800;
const NEAR_TOP_DB = 30;

const S_HZ = [4500, 10000] as const;
const VOICE_HZ = [250, 3500] as const;
/** An s is sharp within so much of the loud voice and over the voice beside it, for so long, and so often a second. */
const UNDER_VOICE_DB = 3;
const OVER_VOICE_DB = 3;
const LOUD_PERCENTILE = 0.95;
const SHORTEST_SECONDS = 0.04;
const LONGEST_SECONDS = 0.35;
const OFTEN = 0.3;

/** What the spectrum says: where the band ends, and whether an s stands out. */
export class SpectrumLook implements Look {
  readonly #frames: PowerFrames;
  readonly #mean: Float64Array;
  readonly #sharp: number[] = [];
  readonly #voice: number[] = [];

  constructor(private readonly sampleRate: number) {
    this.#frames = new PowerFrames(sampleRate);
    this.#mean = new Float64Array(this.#frames.size / 2 + 1);
  }

  #band(power: Float32Array, [from, to]: readonly [number, number]): number {
    const perBin = this.sampleRate / this.#frames.size;
    let sum = 1e-12;
    for (let k = Math.ceil(from / perBin); k < Math.min(power.length, to / perBin); k++) sum += power[k];
    return powerToDb(sum);
  }

  push(l: number, r: number, n: number): void {
    this.#frames.push(l, r, n, (power) => {
      power.forEach((p, k) => (this.#mean[k] += p));
      this.#sharp.push(this.#band(power, S_HZ));
      this.#voice.push(this.#band(power, VOICE_HZ));
    });
  }

  finish(): Finding[] {
    return [...this.#bandLimit(), ...this.#sibilance()];
  }

  #bandLimit(): Finding[] {
    const perBin = this.sampleRate / this.#frames.size;
    const db = Array.from(this.#mean, (p) => powerToDb(p + 1e-20));
    const top = Math.max(...db);
    let last = db.length - 1;
    while (last > 0 && db[last] <= top - UNDER_TOP_DB) last--;
    const reach = Math.ceil(AROUND_HZ / perBin);
    const hertz = last * perBin;
    if (last <= reach || hertz > HIGHEST_SHARE * this.sampleRate || last + reach >= db.length) return [];
    const below = Math.max(...db.slice(last - reach, last - (reach >> 1)));
    const above = Math.max(...db.slice(last + (reach >> 1), last + reach));
    if (below - above < FALL_DB || below < top - NEAR_TOP_DB) return [];
    return [
      {
        kind: "band-limit",
        certainty: "likely",
        value: hertz,
        unit: "Hz",
        text: `Nothing lies above ${Math.round(hertz / 100) / 10} kHz: it came through a narrow line or a low rate.`,
        places: []
      }
    ];
  }

  #sibilance(): Finding[] {
    if (this.#voice.length === 0) return [];
    const loud = percentile(this.#voice, LOUD_PERCENTILE);
    const seconds = this.#frames.hop / this.sampleRate;
    const places: FindingPlace[] = [];
    const over: number[] = [];
    for (let i = 0; i < this.#sharp.length; i++) {
      let end = i;
      while (
        end < this.#sharp.length &&
        this.#sharp[end] > loud - UNDER_VOICE_DB &&
        this.#sharp[end] > this.#voice[end] + OVER_VOICE_DB
      )
        end++;
      const length = (end - i) * seconds;
      if (length >= SHORTEST_SECONDS && length <= LONGEST_SECONDS) {
        places.push({ from: i * seconds, to: end * seconds });
        over.push(Math.max(...this.#sharp.slice(i, end)) - loud);
      }
      i = end;
    }
    const rate = places.length / (this.#sharp.length * seconds);
    if (rate <= OFTEN) return [];
    return [
      {
        kind: "sibilance",
        certainty: "likely",
        value: rate * 60,
        unit: "a minute",
        text: `Sharp s: ${Math.round(rate * 60)} a minute, up to ${Math.round(Math.max(...over) + UNDER_VOICE_DB)} dB over what is usual.`,
        places: places.slice(0, MOST_PLACES),
        step: { effect: "de-esser", params: {} }
      }
    ];
  }

  release(): void {
    this.#frames.release();
  }
}

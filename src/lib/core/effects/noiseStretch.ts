// Whether a stretch from which a noise is to be learnt holds noise alone.
import { percentile } from "../audio/statistics";
import { powerToDb } from "../units/decibels";
import { PowerFrames } from "./powerFrames";

/** A profile from less than this is left to chance, in seconds. */
export const LEAST_NOISE_SECONDS = 0.25;
/** Where voices have most of their power, in hertz. */
const VOICE_HZ = [250, 4000] as const;
/** The voice band of a steady noise varies from window to window by less than this: its upper twentieth over its lower tenth (an own choice). */
const STEADY_DB = 9;

export class NoiseStretch {
  readonly #frames: PowerFrames;
  readonly #levels: number[] = [];
  #heard = 0;

  constructor(private readonly sampleRate: number) {
    this.#frames = new PowerFrames(sampleRate);
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    this.#heard += n;
    const perBin = this.sampleRate / this.#frames.size;
    this.#frames.push(l, r, n, (power) => {
      let sum = 0;
      for (let k = Math.ceil(VOICE_HZ[0] / perBin); k < VOICE_HZ[1] / perBin; k++) sum += power[k];
      if (sum > 0) this.#levels.push(powerToDb(sum));
    });
  }

  /** Why what was heard may not be noise alone, as a sentence; undefined when it seems to be. */
  doubt(): string | undefined {
    const seconds = this.#heard / this.sampleRate;
    if (seconds < LEAST_NOISE_SECONDS)
      return `Only ${seconds.toFixed(2)} s were learnt from: take at least ${LEAST_NOISE_SECONDS} s.`;
    const spread = percentile(this.#levels, 0.95) - percentile(this.#levels, 0.1);
    return spread > STEADY_DB
      ? "There seems to be speech, or another sound that changes, in the stretch: it will be taken for noise."
      : undefined;
  }

  release(): void {
    this.#frames.release();
  }
}

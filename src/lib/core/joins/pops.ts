// What of a cut is heard as a pop: the spectrum around it, beyond what masks it.
//
//        before ▒▒▒▒▒▒▒▒ │ ▒▒▒▒▒▒▒▒ after      A step, or a fade that is too fast, spreads over all bands for a moment. Where that rises above
//                       ▐█▌                    what the sounds on both sides, and those of other tracks, have in a band or spread into it, it is
//                        at                    heard.
import { Fft } from "../audio/fft";
import { Buffer } from "../kernels/memory";
import { hann } from "../audio/windows";
import { powerToDb } from "../units/decibels";
import type { Stereo } from "./clipSound";

/** Window of one look, seconds: the power of two that is nearest above it. */
const LOOK_SECONDS = 0.005;
/** A window that is looked at holds the cut within this share of its middle. */
const NEAR = 0.25;
/** Sounds mask what comes within this time before and after them, seconds. */
const MASK_SECONDS = 0.03;
/**
 * Slopes of masking in dB a Bark, below and above the masker, and how far below a masker the threshold lies.
 * Source: Zwicker & Fastl, "Psychoacoustics", section 4.1 (27 dB a Bark below, level-dependent above; critical-band noise masks at about -4 dB); from memory.
 */
const SLOPE_BELOW = 27;
const SLOPE_ABOVE = 15;
const OFFSET_DB = 4;
/** Level of a band that is not heard in a quiet room at usual levels, dBFS; *common practice, no source*. */
const FLOOR_DB = -78;
/** Beyond what masks it, from which on it is a pop. */
export const POP_DB = 6;

/** Bark of a frequency. Source: Traunmüller, J. Acoust. Soc. Am. 88 (1990), 97. */
export function bark(hz: number): number {
  return (26.81 * hz) / (1960 + hz) - 0.53;
}

function silent({ left, right }: Stereo): boolean {
  return left.every((x) => x === 0) && right.every((x) => x === 0);
}

/** Looks at sound in windows, band by band, of one sample rate. */
export class PopFinder {
  readonly #size: number;
  readonly #fft: Fft;
  readonly #memory: Buffer;
  readonly #window: Float64Array;
  /** Band of each bin. */
  readonly #bandOf: Int32Array;
  readonly #bands: number;
  /** Powers by band of a look, of each channel. */
  readonly #left: Float64Array;
  readonly #right: Float64Array;

  constructor(readonly sampleRate: number) {
    this.#size = Math.max(64, 2 ** Math.ceil(Math.log2(LOOK_SECONDS * sampleRate)));
    this.#fft = new Fft(this.#size);
    this.#memory = new Buffer(this.#size * 8);
    this.#window = hann(this.#size);
    this.#bandOf = Int32Array.from({ length: this.#size / 2 + 1 }, (_, k) =>
      Math.max(0, Math.floor(bark((k * sampleRate) / this.#size)))
    );
    this.#bands = (this.#bandOf[this.#size / 2] ?? 0) + 1;
    this.#left = new Float64Array(this.#bands);
    this.#right = new Float64Array(this.#bands);
  }

  /** Frames that a look needs on each side of the cut. */
  get reach(): number {
    return Math.ceil(MASK_SECONDS * this.sampleRate) + this.#size;
  }

  /** Power of each band in a window around a frame, of the louder channel; where that is more than what is there it takes its place. */
  #look({ left, right }: Stereo, middle: number, most: Float64Array): void {
    const n = this.#size;
    const { f32 } = this.#memory;
    const begin = middle - (n >> 1);
    for (let i = 0; i < n; i++) {
      const w = this.#window[i];
      f32[i] = w * left[begin + i];
      f32[n + i] = w * right[begin + i];
    }
    this.#fft.forward(this.#memory.ptr, this.#memory.ptr + n * 4);
    const out = this.#memory.f32;
    const a = this.#left.fill(0);
    const b = this.#right.fill(0);
    // A sine of full scale shall give 0 dB: (N/4)² of Hann's window.
    const scale = 16 / (n * n);
    for (let k = 1; k <= n / 2; k++) {
      const xr = out[k];
      const xi = out[n + k];
      const yr = out[n - k];
      const yi = out[2 * n - k];
      // Two real signals in one transform.
      const band = this.#bandOf[k];
      a[band] += (((xr + yr) ** 2 + (xi - yi) ** 2) / 4) * scale;
      b[band] += (((xi + yi) ** 2 + (yr - xr) ** 2) / 4) * scale;
    }
    for (let band = 0; band < a.length; band++) most[band] = Math.max(most[band], a[band], b[band]);
  }

  /** Level up to which each band is masked by sounds with these powers, dB. */
  #masked(powers: Float64Array): number[] {
    const levels = [...powers].map(powerToDb);
    return levels.map((_, band) =>
      levels.reduce((most, level, from) => {
        const away = band - from;
        const spread = away < 0 ? level + away * SLOPE_BELOW : level - away * SLOPE_ABOVE;
        return Math.max(most, spread - OFFSET_DB);
      }, FLOOR_DB)
    );
  }

  /**
   * The most power of each band in windows on both sides of a cut that hold nothing of it: what masks it.
   * @param own the track's sound around the cut, as it is heard
   * @param others what sounds besides, of the same length
   * @param at frame of the cut in both; they reach `reach` to its sides
   */
  sides(own: Stereo, others: Stereo, at: number): Float64Array {
    const n = this.#size;
    const sides = new Float64Array(this.#bands);
    const far = Math.ceil(MASK_SECONDS * this.sampleRate);
    const sounds = [own, others].filter((sound) => !silent(sound));
    for (let d = (n >> 1) + this.#step; d <= far + (n >> 1); d += n >> 2)
      for (const sound of sounds) {
        this.#look(sound, at - d, sides);
        this.#look(sound, at + d, sides);
      }
    return sides;
  }

  /**
   * How far what a cut adds rises above what masks it, in dB; below 0 it is masked.
   * @param sides what `sides` has found
   * @param own as there
   * @param uncut the sounds that meet there as they would go on without a cut, of the same length: a knock that lies there in one of them is no pop
   */
  excess(sides: Float64Array, own: Stereo, uncut: readonly Stereo[], at: number): number {
    const near = Math.floor(this.#size * NEAR);
    const masking = sides.slice();
    const cut = new Float64Array(this.#bands);
    for (let d = -near; d <= near; d += this.#step) {
      for (const sound of uncut) this.#look(sound, at + d, masking);
      this.#look(own, at + d, cut);
    }
    const masked = this.#masked(masking);
    return cut.reduce((most, power, band) => Math.max(most, powerToDb(power) - masked[band]), -Infinity);
  }

  /** Frames between windows that hold the cut. */
  get #step(): number {
    return Math.max(1, this.#size >> 3);
  }

  release(): void {
    this.#fft.release();
    this.#memory.release();
  }
}

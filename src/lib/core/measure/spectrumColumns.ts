// The spectrum of a sound over time, in columns and logarithmic bands: for spectrograms, and for spectra at the playhead.
import { PowerFrames } from "../effects/powerFrames";

export const LOWEST_HZ = 20;
export const HIGHEST_HZ = 20000;
/** Lowest level that is told, and the levels of one unit. */
export const FLOOR_DB = -120;
const UNITS_PER_DB = 2;

/** Middle of a band, in hertz. */
export function bandHertz(band: number, bands: number): number {
  return LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** ((band + 0.5) / bands);
}

/** A level as one byte, and back: half decibels above -120. */
export const byteOf = (db: number) => Math.max(0, Math.min(255, Math.round((db - FLOOR_DB) * UNITS_PER_DB)));
export const levelOf = (byte: number) => FLOOR_DB + byte / UNITS_PER_DB;

/** Levels by column, then band, lowest first; as bytes. A full-scale sine on both sides is 0 dB. */
export interface Spectra {
  readonly columns: number;
  readonly bands: number;
  readonly levels: Uint8Array;
}

/** The mean spectrum over columns [from, to), in dB by band. */
export function meanSpectrum({ columns, bands, levels }: Spectra, from = 0, to = columns): number[] {
  const power = new Float64Array(bands);
  for (let c = from; c < to; c++)
    for (let b = 0; b < bands; b++) power[b] += 10 ** (levelOf(levels[c * bands + b]) / 10);
  return Array.from(power, (p) => 10 * Math.log10(p / Math.max(1, to - from)));
}

/** Gathers the spectra of a sound of known length. */
export class SpectrumColumns {
  readonly #frames: PowerFrames;
  readonly #power: Float64Array;
  readonly #counts: Uint32Array;
  /** First and last bin of each band. */
  readonly #edges: readonly (readonly [number, number])[];
  readonly #columns: number;
  #window = 0;

  /** @param columns as many as there are windows at most */
  constructor(
    sampleRate: number,
    private readonly length: number,
    columns: number,
    private readonly bands: number
  ) {
    this.#frames = new PowerFrames(sampleRate);
    const { size, hop } = this.#frames;
    this.#columns = Math.max(1, Math.min(columns, Math.floor(length / hop)));
    this.#power = new Float64Array(this.#columns * bands);
    this.#counts = new Uint32Array(this.#columns);
    const perBin = sampleRate / size;
    const ratio = HIGHEST_HZ / LOWEST_HZ;
    this.#edges = Array.from({ length: bands }, (_, band) => {
      const bin = (at: number) => (LOWEST_HZ * ratio ** (at / bands)) / perBin;
      const first = Math.min(size / 2, Math.max(1, Math.round(bin(band))));
      return [first, Math.min(size / 2, Math.max(first, Math.round(bin(band + 1)) - 1))] as const;
    });
  }

  /** Takes n ≤ BLOCK frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    this.#frames.push(l, r, n, (power) => this.#add(power));
  }

  #add(power: Float32Array): void {
    const { hop, size } = this.#frames;
    const middle = this.#window++ * hop + size / 2;
    const column = Math.min(this.#columns - 1, Math.floor((middle * this.#columns) / this.length));
    const at = column * this.bands;
    this.#counts[column]++;
    for (let band = 0; band < this.bands; band++) {
      const [first, last] = this.#edges[band];
      // The strongest line of a band: a sine is as high as it is, however wide its band.
      let most = 0;
      for (let k = first; k <= last; k++) if (power[k] > most) most = power[k];
      this.#power[at + band] += most;
    }
  }

  result(): Spectra {
    const { size } = this.#frames;
    const levels = new Uint8Array(this.#columns * this.bands);
    // A full-scale sine on both sides: twice the square of half the window's sum, which is size / 2 for Hann.
    const full = 2 * (size / 4) ** 2;
    let last = -1;
    for (let c = 0; c < this.#columns; c++) {
      const count = this.#counts[c];
      // A column without a window of its own shows what came before.
      if (count === 0 && last >= 0)
        levels.copyWithin(c * this.bands, last * this.bands, (last + 1) * this.bands);
      if (count === 0) continue;
      last = c;
      for (let b = 0; b < this.bands; b++) {
        const mean = this.#power[c * this.bands + b] / count;
        levels[c * this.bands + b] = byteOf(10 * Math.log10(mean / full + 1e-20));
      }
    }
    return { columns: this.#columns, bands: this.bands, levels };
  }

  release(): void {
    this.#frames.release();
  }
}

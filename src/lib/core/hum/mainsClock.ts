// The running phase of the mains in a stretch of sound: its frequency over time, and sound stretched so that every period of it has the same
// number of samples (order tracking: K. R. Fyfe, E. D. S. Munck, Mechanical Systems and Signal Processing 11, 1997).
import { kernels } from "../kernels/instance";
import { kaiser } from "../audio/windows";

/** Samples of one period of stretched sound. */
export const PERIOD = 256;

const TAPS = 16;
const PHASES = 256;
const ATTENUATION_DB = 80;

let table: Float64Array | undefined;

/** Rows of a windowed sinc for PHASES + 1 places between two samples. */
function interpolator(): Float64Array {
  if (table) return table;
  table = new Float64Array((PHASES + 1) * TAPS);
  const fine = kaiser(TAPS * PHASES + 1, ATTENUATION_DB);
  for (let phase = 0; phase <= PHASES; phase++)
    for (let k = 0; k < TAPS; k++) {
      const x = k - (TAPS / 2 - 1) - phase / PHASES;
      const at = Math.round((x + TAPS / 2) * PHASES);
      table[phase * TAPS + k] = x === 0 ? 1 : (kernels.sin(Math.PI * x) / (Math.PI * x)) * (fine[at] ?? 0);
    }
  return table;
}

/** Value of a sound between its samples; beyond its ends there is silence. */
function valueAt(samples: Float32Array, position: number, rows: Float64Array): number {
  const whole = Math.floor(position);
  const x = (position - whole) * PHASES;
  const row = Math.floor(x);
  const share = x - row;
  const first = whole - (TAPS / 2 - 1);
  let [a, b] = [0, 0];
  for (let k = 0; k < TAPS; k++) {
    const value = samples[first + k] ?? 0;
    a += value * rows[row * TAPS + k];
    b += value * rows[(row + 1) * TAPS + k];
  }
  return a + (b - a) * share;
}

/** Frequency over time, straight between values that lie `PERIOD` samples apart, and the periods passed since the first sample. */
export class MainsClock {
  /** Periods passed at each of the values. */
  readonly #passed: Float64Array;

  /**
   * @param hertz frequency at samples 0, PERIOD, 2 PERIOD …
   * @param sampleRate of the sound, Hz
   */
  constructor(
    readonly hertz: Float64Array,
    private readonly sampleRate: number
  ) {
    this.#passed = new Float64Array(hertz.length);
    for (let i = 1; i < hertz.length; i++)
      this.#passed[i] = this.#passed[i - 1] + ((hertz[i - 1] + hertz[i]) / 2 / sampleRate) * PERIOD;
  }

  /** Hz at a sample. */
  hertzAt(sample: number): number {
    const last = this.hertz.length - 1;
    const x = Math.max(0, Math.min(last, sample / PERIOD));
    const i = Math.min(last - 1, Math.floor(x));
    return this.hertz[i] + (this.hertz[i + 1] - this.hertz[i]) * (x - i);
  }

  /** Sample, with its fraction, at which that many periods have passed. */
  sampleAt(periods: number): number {
    const passed = this.#passed;
    let low = 0;
    let high = passed.length - 2;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (passed[middle] <= periods) low = middle;
      else high = middle - 1;
    }
    const [a, b] = [this.hertz[low] / this.sampleRate, this.hertz[low + 1] / this.sampleRate];
    const rest = periods - passed[low];
    // rest = a s + (b - a) s² / (2 PERIOD): the smaller solution, without loss of digits.
    const bend = (b - a) / (2 * PERIOD);
    return low * PERIOD + (2 * rest) / (a + Math.sqrt(Math.max(0, a * a + 4 * bend * rest)));
  }

  /** Whole periods within so many samples. */
  periodsIn(samples: number): number {
    const last = this.#passed.length - 1;
    const at = Math.min(last, Math.floor(samples / PERIOD));
    return Math.floor(this.#passed[at] + ((samples - at * PERIOD) * this.hertz[at]) / this.sampleRate);
  }

  /** A sound with PERIOD samples for each of its periods. */
  stretched(samples: Float32Array): Float32Array {
    const rows = interpolator();
    const periods = this.periodsIn(samples.length);
    const out = new Float32Array(periods * PERIOD);
    for (let p = 0; p < periods; p++) {
      const [from, middle, to] = [this.sampleAt(p), this.sampleAt(p + 0.5), this.sampleAt(p + 1)];
      // Within a period the frequency hardly moves: a parabola through three places.
      const bend = 2 * (from + to - 2 * middle);
      const slope = to - from - bend;
      for (let i = 0; i < PERIOD; i++) {
        const x = i / PERIOD;
        out[p * PERIOD + i] = valueAt(samples, from + (slope + bend * x) * x, rows);
      }
    }
    return out;
  }
}

/** A clock of a frequency that does not change. */
export function steadyClock(hertz: number, samples: number, sampleRate: number): MainsClock {
  return new MainsClock(new Float64Array(Math.ceil(samples / PERIOD) + 2).fill(hertz), sampleRate);
}

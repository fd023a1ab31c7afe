// Loudness from the mean squares of 100 ms steps: ITU-R BS.1770-5 annex 1, EBU Tech 3341, EBU Tech 3342.
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";

/** Mean squares are weighted sums over the channels, one value for each 100 ms. */
const OFFSET = -0.691;
const ABSOLUTE_GATE = -70;
const MOMENTARY_STEPS = 4;
const SHORT_TERM_STEPS = 30;

/** Loudness in LUFS of a weighted mean square (BS.1770-5, equation 2). */
export function loudnessOf(meanSquare: number): number {
  return meanSquare > 0 ? OFFSET + powerToDb(meanSquare) : -Infinity;
}

/**
 * The two sections of the K-weighting for any sample rate: the standard's 48 kHz filters traced back to their analogue
 * parameters and transformed bilinearly (as in libebur128, MIT). Ten numbers: b0 b1 b2 a1 a2 twice.
 */
export function kWeighting(sampleRate: number): number[] {
  const shelf = (() => {
    const k = kernels.tan((Math.PI * 1681.974450955533) / sampleRate);
    const q = 0.7071752369554196;
    const high = kernels.pow(10, 3.999843853973347 / 20);
    const band = kernels.pow(high, 0.4996667741545416);
    const a0 = 1 + k / q + k * k;
    return [
      (high + (band * k) / q + k * k) / a0,
      (2 * (k * k - high)) / a0,
      (high - (band * k) / q + k * k) / a0,
      (2 * (k * k - 1)) / a0,
      (1 - k / q + k * k) / a0
    ];
  })();
  const k = kernels.tan((Math.PI * 38.13547087602444) / sampleRate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return [...shelf, 1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0];
}

/** A growing list of 100 ms mean squares, and what the standards make of it. */
export class LoudnessSteps {
  #values = new Float64Array(1024);
  #count = 0;

  add(meanSquare: number): void {
    if (this.#count === this.#values.length) {
      const more = new Float64Array(this.#count * 2);
      more.set(this.#values);
      this.#values = more;
    }
    this.#values[this.#count++] = meanSquare;
  }

  get count(): number {
    return this.#count;
  }

  #mean(end: number, steps: number): number {
    let sum = 0;
    for (let i = end - steps; i < end; i++) sum += this.#values[i];
    return sum / steps;
  }

  /** Loudness of the last `steps` steps; -Infinity before there are as many. */
  #last(steps: number): number {
    return this.#count < steps ? -Infinity : loudnessOf(this.#mean(this.#count, steps));
  }

  /** Momentary loudness now (400 ms), LUFS. */
  momentary(): number {
    return this.#last(MOMENTARY_STEPS);
  }

  /** Short-term loudness now (3 s), LUFS. */
  shortTerm(): number {
    return this.#last(SHORT_TERM_STEPS);
  }

  /** Loudness over time at 10 Hz, window of `steps` steps. */
  over(steps: number): Float64Array {
    const out = new Float64Array(Math.max(0, this.#count - steps + 1));
    for (let i = 0; i < out.length; i++) out[i] = loudnessOf(this.#mean(i + steps, steps));
    return out;
  }

  /** Largest momentary loudness, LUFS. */
  momentaryMax(): number {
    return this.over(MOMENTARY_STEPS).reduce((a, b) => Math.max(a, b), -Infinity);
  }

  /** Largest short-term loudness, LUFS. */
  shortTermMax(): number {
    return this.over(SHORT_TERM_STEPS).reduce((a, b) => Math.max(a, b), -Infinity);
  }

  /** Integrated loudness, LUFS: 400 ms blocks overlapping by 75 %, gates at -70 LUFS and -10 LU (BS.1770-5, annex 1). */
  integrated(): number {
    const gate = (threshold: number): number => {
      let sum = 0;
      let n = 0;
      for (let end = MOMENTARY_STEPS; end <= this.#count; end++) {
        const mean = this.#mean(end, MOMENTARY_STEPS);
        if (loudnessOf(mean) > threshold) {
          sum += mean;
          n++;
        }
      }
      return n === 0 ? -Infinity : loudnessOf(sum / n);
    };
    const ungated = gate(ABSOLUTE_GATE);
    return ungated === -Infinity ? ungated : gate(Math.max(ABSOLUTE_GATE, ungated - 10));
  }

  /** Loudness range, LU: 10th to 95th percentile of short-term loudness above -70 LUFS and -20 LU (EBU Tech 3342). */
  range(): number {
    const heard: number[] = [];
    let power = 0;
    for (let end = SHORT_TERM_STEPS; end <= this.#count; end++) {
      const mean = this.#mean(end, SHORT_TERM_STEPS);
      if (loudnessOf(mean) < ABSOLUTE_GATE) continue;
      heard.push(loudnessOf(mean));
      power += mean;
    }
    if (heard.length === 0) return 0;
    const relative = loudnessOf(power / heard.length) - 20;
    const kept = heard.filter((l) => l >= relative).sort((a, b) => a - b);
    const at = (p: number) => kept[Math.round((kept.length - 1) * p)];
    return at(0.95) - at(0.1);
  }
}

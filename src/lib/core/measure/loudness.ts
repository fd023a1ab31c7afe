// Loudness from the mean squares of 10 ms steps: ITU-R BS.1770-5 annex 1, EBU Tech 3341, EBU Tech 3342.
import { powerToDb } from "../units/decibels";

/** Steps a second. Gating uses every tenth; the largest momentary and short-term loudness are sought at every one. */
export const STEPS_PER_SECOND = 100;

const OFFSET = -0.691;
const ABSOLUTE_GATE = -70;
// The mean square at the absolute gate: comparing powers spares a logarithm for every block.
const ABSOLUTE_POWER = 10 ** ((ABSOLUTE_GATE - OFFSET) / 10);
/** Steps of the momentary and of the short-term loudness, and from one value over time to the next. */
export const MOMENTARY = 40;
export const SHORT_TERM = 300;
export const HOP = 10;

/** Loudness in LUFS of a weighted mean square (BS.1770-5, equation 2). */
export function loudnessOf(meanSquare: number): number {
  return meanSquare > 0 ? OFFSET + powerToDb(meanSquare) : -Infinity;
}

/** A growing list of 10 ms weighted mean squares, summed over the channels, and what the standards make of it. */
export class LoudnessSteps {
  /** Sums from the start: the mean of any stretch is a difference. */
  #sums = new Float64Array(4096);
  #count = 0;

  add(meanSquare: number): void {
    if (this.#count + 1 === this.#sums.length) {
      const more = new Float64Array(this.#sums.length * 2);
      more.set(this.#sums);
      this.#sums = more;
    }
    this.#sums[this.#count + 1] = this.#sums[this.#count] + meanSquare;
    this.#count++;
  }

  get count(): number {
    return this.#count;
  }

  #mean(end: number, steps: number): number {
    return Math.max(0, (this.#sums[end] - this.#sums[end - steps]) / steps);
  }

  /** Loudness of the last `steps` steps; -Infinity before there are as many. */
  #last(steps: number): number {
    return this.#count < steps ? -Infinity : loudnessOf(this.#mean(this.#count, steps));
  }

  /** Momentary loudness now (400 ms), LUFS. */
  momentary(): number {
    return this.#last(MOMENTARY);
  }

  /** Short-term loudness now (3 s), LUFS. */
  shortTerm(): number {
    return this.#last(SHORT_TERM);
  }

  #largest(steps: number): number {
    let top = 0;
    for (let end = steps; end <= this.#count; end++) top = Math.max(top, this.#mean(end, steps));
    return loudnessOf(top);
  }

  /** Largest momentary loudness, LUFS. */
  momentaryMax(): number {
    return this.#largest(MOMENTARY);
  }

  /** Largest short-term loudness, LUFS. */
  shortTermMax(): number {
    return this.#largest(SHORT_TERM);
  }

  #over(steps: number): Float64Array {
    const n = Math.max(0, Math.floor((this.#count - steps) / HOP) + 1);
    return Float64Array.from({ length: n }, (_, i) => loudnessOf(this.#mean(steps + i * HOP, steps)));
  }

  /** Momentary loudness over time, 10 values a second; the first is that of the first 400 ms. LUFS. */
  momentaryOverTime(): Float64Array {
    return this.#over(MOMENTARY);
  }

  /** Short-term loudness over time, 10 values a second; the first is that of the first 3 s. LUFS. */
  shortTermOverTime(): Float64Array {
    return this.#over(SHORT_TERM);
  }

  /** Mean power of the 400 ms blocks (overlapping by 75 %) of the first steps above a power; 0 when there are none. */
  #gated(power: number, steps: number): number {
    let sum = 0;
    let n = 0;
    for (let end = MOMENTARY; end <= steps; end += HOP) {
      const mean = this.#mean(end, MOMENTARY);
      if (mean > power) {
        sum += mean;
        n++;
      }
    }
    return n === 0 ? 0 : sum / n;
  }

  /** Integrated loudness of the first steps, or of all, LUFS: gates at -70 LUFS and -10 LU (BS.1770-5, annex 1, equations 5 to 7). */
  integrated(steps = this.#count): number {
    const ungated = this.#gated(ABSOLUTE_POWER, steps);
    return ungated === 0 ? -Infinity : loudnessOf(this.#gated(Math.max(ABSOLUTE_POWER, ungated / 10), steps));
  }

  /**
   * Loudness range, LU: 10th to 95th percentile of short-term loudness above -70 LUFS and -20 LU (EBU Tech 3342). 0 when all is below;
   * -Infinity, for no value, before there are 3 s.
   */
  range(): number {
    if (this.#count < SHORT_TERM) return -Infinity;
    const heard: number[] = [];
    let power = 0;
    for (let end = SHORT_TERM; end <= this.#count; end += HOP) {
      const mean = this.#mean(end, SHORT_TERM);
      if (mean < ABSOLUTE_POWER) continue;
      heard.push(mean);
      power += mean;
    }
    if (heard.length === 0) return 0;
    const relative = power / heard.length / 100;
    const kept = Float64Array.from(heard.filter((p) => p >= relative)).sort();
    const at = (p: number) => loudnessOf(kept[Math.round((kept.length - 1) * p)]);
    return at(0.95) - at(0.1);
  }
}

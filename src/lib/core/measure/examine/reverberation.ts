// How long a room rings, from the ends of words alone: where a band's level falls freely by 12 dB and more, the slope tells the time in which it
// would fall by 60 dB (T60, ISO 3382; blindly from speech after R. Ratnam et al., JASA 114, 2003, in the simplest form: the median of the slower falls).
import { BiquadCascade } from "../../audio/biquadCascade";
import { matchedSection } from "../../audio/biquadDesign";
import { StereoBlock } from "../../audio/block";
import { median, percentile } from "../../audio/statistics";
import { kernels } from "../../kernels/instance";
import { Buffer } from "../../kernels/memory";
import { powerToDb } from "../../units/decibels";
import type { Finding, Look } from "./finding";

const OCTAVES_HZ = [
  [400, 800],
  [800, 1600],
  [1600, 3200]
] as const;
const STEP_SECONDS = 0.01;
/** Steps of which the mean is a level. */
const SMOOTH = 3;
const LEAST_STEPS = 8;
const LEAST_FALL_DB = 12;
/** A fall begins within so much of the loud moments, and may rise by so much on the way. */
const UNDER_LOUD_DB = 20;
const RISE_DB = 0.3;
/** The slope counts from here to there. */
const FROM_DB = 3;
const TO_DB = 12;
/** The fastest are words that end faster than the room; they tell nothing. */
const FASTER = 0.1;
const LEAST_FALLS = 5;
/** A room that rings longer than this is heard beside speech. */
const TOO_LONG_SECONDS = 0.9;

/** Levels of one octave, step by step. */
class Octave {
  readonly levels: number[] = [];
  readonly #filter: BiquadCascade;
  readonly #work = new StereoBlock();
  readonly #sums = new Buffer(16);
  readonly #step: number;
  #in = 0;
  #recent: number[] = [];

  constructor([low, high]: readonly [number, number], sampleRate: number) {
    const turn = (2 * Math.PI) / sampleRate;
    this.#filter = new BiquadCascade([
      matchedSection("highPass", 1, Math.SQRT1_2, low * turn),
      matchedSection("lowPass", 1, Math.SQRT1_2, high * turn)
    ]);
    this.#step = Math.round(STEP_SECONDS * sampleRate);
  }

  push(l: number, r: number, n: number): void {
    const { left, right } = this.#work;
    kernels.copy(left.ptr, l, n);
    kernels.copy(right.ptr, r, n);
    this.#filter.process(left.ptr, right.ptr, n);
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#step - this.#in);
      for (const { ptr } of [left, right]) kernels.levels(ptr + done * 4, m, this.#sums.ptr);
      this.#in += m;
      done += m;
      if (this.#in < this.#step) continue;
      this.#recent.push(this.#sums.f64[1]);
      if (this.#recent.length > SMOOTH) this.#recent.shift();
      const power = this.#recent.reduce((a, b) => a + b, 0) / this.#recent.length / this.#step;
      this.levels.push(powerToDb(power + 1e-12));
      this.#sums.f64.fill(0);
      this.#in = 0;
    }
  }

  /** T60 in seconds of each free fall. */
  falls(): number[] {
    const levels = this.levels.map((_, i) => {
      const around = this.levels.slice(Math.max(0, i - 1), i + 2);
      return around.reduce((a, b) => a + b, 0) / around.length;
    });
    const loud = percentile(this.levels, 0.97);
    const out: number[] = [];
    for (let i = 0; i < levels.length - LEAST_STEPS;) {
      let j = i;
      while (j + 1 < levels.length && levels[j + 1] < levels[j] + RISE_DB) j++;
      if (
        j - i >= LEAST_STEPS &&
        levels[i] - levels[j] >= LEAST_FALL_DB &&
        levels[i] > loud - UNDER_LOUD_DB
      ) {
        const slope = slopeOf(levels.slice(i, j + 1));
        if (slope < 0) out.push((-60 / slope) * STEP_SECONDS);
      }
      i = Math.max(j, i + 1);
    }
    return out;
  }

  release(): void {
    for (const b of [this.#filter, this.#work, this.#sums]) b.release();
  }
}

/** Least-squares slope of a fall between FROM_DB and TO_DB under its beginning, dB a step; 0 when that is too short. */
function slopeOf(fall: readonly number[]): number {
  const a = fall.findIndex((level) => level < fall[0] - FROM_DB);
  const b = fall.findIndex((level) => level < fall[0] - TO_DB);
  const part = fall.slice(a, b + 1);
  if (a < 0 || b < 0 || part.length < 5) return 0;
  const middle = (part.length - 1) / 2;
  const mean = part.reduce((sum, v) => sum + v, 0) / part.length;
  let [xy, xx] = [0, 0];
  part.forEach((v, i) => {
    xy += (i - middle) * (v - mean);
    xx += (i - middle) ** 2;
  });
  return xy / xx;
}

export class ReverberationLook implements Look {
  readonly #octaves: readonly Octave[];

  constructor(sampleRate: number) {
    this.#octaves = OCTAVES_HZ.filter(([, high]) => high < 0.45 * sampleRate).map(
      (hertz) => new Octave(hertz, sampleRate)
    );
  }

  push(l: number, r: number, n: number): void {
    for (const octave of this.#octaves) octave.push(l, r, n);
  }

  /** Seconds in which the sound of the room falls by 60 dB; undefined when too little falls freely. */
  estimate(): number | undefined {
    const falls = this.#octaves.flatMap((octave) => octave.falls()).sort((a, b) => a - b);
    if (falls.length < LEAST_FALLS) return undefined;
    return median(falls.slice(Math.floor(falls.length * FASTER)));
  }

  finish(): Finding[] {
    const seconds = this.estimate();
    if (seconds === undefined || seconds <= TOO_LONG_SECONDS) return [];
    return [
      {
        kind: "reverberation",
        certainty: "likely",
        value: seconds,
        unit: "s",
        text: `Rings long: the room falls by 60 dB in about ${seconds.toFixed(1)} s.`,
        places: []
      }
    ];
  }

  release(): void {
    for (const octave of this.#octaves) octave.release();
  }
}

import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

// Full scale of 16-bit files reaches 1 - 2^-15; what lies at or above it is taken for clipped.
const FULL_SCALE = 1 - 2 ** -15;
const LEAST_RUN = 3;
/** Steps of a window in which the noise floor is looked for: 400 ms, of which one begins every 10 ms. */
const FLOOR_STEPS = 40;
/** Steps a second. */
const STEPS = 100;

/** Levels of samples as they are, unweighted, over all channels. */
export class SampleLevels {
  /** For each channel: sum, sum of squares (f64). */
  readonly #sums: Buffer;
  /** For each channel: the run of clipped samples going on (i32). */
  readonly #runs: Buffer;
  readonly #recent: number[] = [];
  #frames = 0;
  #squares = 0;
  #inStep = 0;
  #stepSquares = 0;
  #peak = 0;
  #clipped = 0;
  #floor = Infinity;

  /** Frames of 10 ms. */
  readonly #step: number;

  constructor(
    private readonly channels: number,
    sampleRate: number
  ) {
    this.#step = Math.round(sampleRate / STEPS);
    this.#sums = new Buffer(channels * 16);
    this.#runs = new Buffer(channels * 4);
  }

  /** Takes n frames, planar; a step ends where it must. */
  push(addresses: readonly number[], n: number): void {
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#step - this.#inStep);
      for (let c = 0; c < this.channels; c++) this.#channel(c, addresses[c] + done * 4, m);
      this.#inStep += m;
      done += m;
      if (this.#inStep === this.#step) this.#closeStep();
    }
    this.#frames += n;
  }

  #channel(c: number, p: number, n: number): void {
    const sums = this.#sums.f64;
    const before = sums[2 * c + 1];
    const peak = kernels.levels(p, n, this.#sums.ptr + c * 16);
    this.#stepSquares += sums[2 * c + 1] - before;
    this.#peak = Math.max(this.#peak, peak);
    if (peak >= FULL_SCALE)
      this.#clipped += kernels.clippedRuns(p, n, FULL_SCALE, LEAST_RUN, this.#runs.ptr + c * 4);
    else this.#runs.i32[c] = 0;
  }

  #closeStep(): void {
    this.#squares += this.#stepSquares;
    // Digital silence is no noise: a stretch with any of it is left out.
    if (this.#stepSquares === 0) this.#recent.length = 0;
    else this.#recent.push(this.#stepSquares);
    if (this.#recent.length > FLOOR_STEPS) this.#recent.shift();
    if (this.#recent.length === FLOOR_STEPS)
      this.#floor = Math.min(this.#floor, this.#recent.reduce((a, b) => a + b) / FLOOR_STEPS / this.#step);
    this.#stepSquares = 0;
    this.#inStep = 0;
  }

  /** Largest magnitude. */
  get peak(): number {
    return this.#peak;
  }

  /** Samples in runs of three or more at full scale, all channels. */
  get clipped(): number {
    return this.#clipped;
  }

  /** Mean square over all channels. */
  get meanSquare(): number {
    const all = this.#squares + this.#stepSquares;
    return this.#frames === 0 ? 0 : all / (this.#frames * this.channels);
  }

  /** Mean of the channel that lies farthest from zero. */
  get offset(): number {
    let most = 0;
    for (let c = 0; c < this.channels; c++) {
      const mean = this.#sums.f64[2 * c] / Math.max(1, this.#frames);
      if (Math.abs(mean) > Math.abs(most)) most = mean;
    }
    return most;
  }

  /**
   * Mean square of the quietest 400 ms, of windows that begin every 10 ms and of one that ends with the sound (39 whole steps of 10 ms and what
   * comes after them). Windows that hold a step of digital silence are left out; 0 when there is none other.
   */
  get floor(): number {
    const last = this.#recent.slice(-(FLOOR_STEPS - 1));
    let floor = this.#floor;
    if (this.#stepSquares > 0 && last.length === FLOOR_STEPS - 1) {
      const squares = last.reduce((a, b) => a + b) + this.#stepSquares;
      floor = Math.min(floor, squares / (last.length * this.#step + this.#inStep));
    }
    return floor === Infinity ? 0 : floor / this.channels;
  }

  release(): void {
    this.#sums.release();
    this.#runs.release();
  }
}

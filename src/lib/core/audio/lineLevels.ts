// Levels of a few spectral lines over short moments, kept as counts by level, so that an hour needs no more memory than a second.
import { HannTransform } from "./hannTransform";

// A moment, seconds at most: short enough to fall between two hits of a drum, and still long enough to part 50 from 60 Hz.
const MOMENT = 0.19;
const LOWEST_DB = -200;
const STEPS_PER_DB = 4;
const STEPS = 220 * STEPS_PER_DB;

export class LineLevels {
  /** Samples of a moment. */
  readonly size: number;
  readonly #transform: HannTransform;
  readonly #lines: readonly { readonly hertz: number; readonly bin: number; readonly counts: Float64Array }[];

  /** @param hertz frequencies near which the lines will be, within 1 % */
  constructor(
    hertz: readonly number[],
    private readonly sampleRate: number
  ) {
    let size = 256;
    while (size * 2 < MOMENT * sampleRate) size *= 2;
    this.size = size;
    this.#transform = new HannTransform(size);
    this.#lines = hertz.map((at) => ({
      hertz: at,
      bin: Math.round((at * size) / sampleRate),
      counts: new Float64Array(STEPS)
    }));
  }

  /** @param input pointer to `size` samples (f32); moments in which there is nothing at a line do not count for it */
  look(input: number): void {
    const { size } = this;
    const f32 = this.#transform.of(input);
    for (const { bin, counts } of this.#lines) {
      const level = 20 * Math.log10(Math.hypot(f32[bin], f32[size + bin]) / size);
      if (level < LOWEST_DB) continue;
      counts[Math.min(STEPS - 1, Math.floor((level - LOWEST_DB) * STEPS_PER_DB))]++;
    }
  }

  /** Amplitude that a line of exactly `hertz` has in the quietest `share` of moments, at most; 0 when there was none. */
  quiet(hertz: number, share: number): number {
    const line = this.#lines.reduce((a, b) =>
      Math.abs(b.hertz - hertz) < Math.abs(a.hertz - hertz) ? b : a
    );
    const total = line.counts.reduce((a, b) => a + b, 0);
    if (total === 0) return 0;
    let step = 0;
    for (let sum = line.counts[0]; sum < share * total; sum += line.counts[++step]);
    const magnitude = this.size * 10 ** ((LOWEST_DB + (step + 0.5) / STEPS_PER_DB) / 20);
    return this.#transform.amplitude(magnitude, (hertz * this.size) / this.sampleRate - line.bin);
  }

  release(): void {
    this.#transform.release();
  }
}

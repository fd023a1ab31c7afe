// Levels of a few spectral lines over short moments, kept as counts by level, so that an hour needs no more memory than a second.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { Fft } from "./fft";
import { hann, hannResponse } from "./windows";

// A moment, seconds at most: short enough to fall between two hits of a drum, and still long enough to part 50 from 60 Hz.
const MOMENT = 0.19;
const LOWEST_DB = -200;
const STEPS_PER_DB = 4;
const STEPS = 220 * STEPS_PER_DB;

export class LineLevels {
  /** Samples of a moment. */
  readonly size: number;
  readonly #fft: Fft;
  readonly #window: Buffer;
  readonly #work: Buffer;
  readonly #lines: readonly { readonly hertz: number; readonly bin: number; readonly counts: Float64Array }[];

  /** @param hertz frequencies near which the lines will be, within 1 % */
  constructor(
    hertz: readonly number[],
    private readonly sampleRate: number
  ) {
    let size = 256;
    while (size * 2 < MOMENT * sampleRate) size *= 2;
    this.size = size;
    this.#fft = new Fft(size);
    this.#window = new Buffer(size * 4);
    this.#window.f32.set(hann(size));
    this.#work = new Buffer(size * 8);
    this.#lines = hertz.map((at) => ({
      hertz: at,
      bin: Math.round((at * size) / sampleRate),
      counts: new Float64Array(STEPS)
    }));
  }

  /** @param input pointer to `size` samples (f32); moments in which there is nothing at a line do not count for it */
  look(input: number): void {
    const { size } = this;
    const re = this.#work.ptr;
    kernels.multiply(re, input, this.#window.ptr, size);
    kernels.clear(re + size * 4, size);
    this.#fft.forward(re, re + size * 4);
    const f32 = this.#work.f32;
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
    return lineAmplitude(magnitude, this.size, (hertz * this.size) / this.sampleRate - line.bin);
  }

  release(): void {
    for (const b of [this.#fft, this.#window, this.#work]) b.release();
  }
}

/** Amplitude of a sine whose transform through a Hann window of n points has that magnitude, `offset` bins beside it. */
export function lineAmplitude(magnitude: number, n: number, offset: number): number {
  return (magnitude * 4) / (n * hannResponse(offset));
}

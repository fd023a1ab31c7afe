// Finds the fundamental of mains hum. Notes have lines too: hum is told from them by its frequency, which mains keep
// within 1 % (EN 50160), and by a level that never lets up.
import { LineLevels } from "./lineLevels";
import { LineSpectrum, type Line } from "./lineSpectrum";

const MAINS_HZ = [50, 60];
const TOLERANCE = 0.01;
const HARMONICS = 10;
const HIGHEST_HZ = Math.max(...MAINS_HZ) * (1 + TOLERANCE) * HARMONICS;
// Hum has the mains' own line or, behind a rectifier, the second: one of them must be there all the time (common practice, no source).
const LEADING = [1, 2];
// So far may the quietest fifth of moments lie below the line's mean (ratio: 3.5 dB).
const QUIET_SHARE = 0.2;
const STEADY = 10 ** (-3.5 / 20);
// Harmonics whose frequency tells of a fundamental so far off belong to something else, Hz.
const AGREES_HZ = 0.05;

function strongest(lines: readonly Line[]): Line | undefined {
  return lines.reduce<Line | undefined>((a, b) => (a && a.amplitude >= b.amplitude ? a : b), undefined);
}

export class HumFinder {
  readonly #spectrum: LineSpectrum;
  readonly #levels: LineLevels;

  /** @param frames frames that will come; in less than about two thirds of a second no hum is found */
  constructor(sampleRate: number, frames: number) {
    const levels = new LineLevels(
      MAINS_HZ.flatMap((mains) => LEADING.map((h) => h * mains)),
      sampleRate
    );
    const spectrum = new LineSpectrum(sampleRate, frames, HIGHEST_HZ, (samples) => {
      if (spectrum.size >= 2 * levels.size) levels.look(samples + (spectrum.size - levels.size) * 4);
    });
    this.#levels = levels;
    this.#spectrum = spectrum;
  }

  push(l: number, r: number, n: number): void {
    this.#spectrum.push(l, r, n);
  }

  /** The fundamentals that lines tell of which could lead a hum of `mains`: at a frequency that mains have, and never quiet. */
  #leading(mains: number): Line[] {
    return LEADING.flatMap((h) =>
      this.#spectrum
        .lines(h * mains, TOLERANCE)
        .filter(
          ({ hertz, amplitude }) =>
            Math.abs(hertz / h / mains - 1) <= TOLERANCE &&
            this.#levels.quiet(hertz, QUIET_SHARE) > amplitude * STEADY
        )
        .map(({ hertz, amplitude }) => ({ hertz: hertz / h, amplitude }))
    );
  }

  /** The fundamental in Hz, rounded to 0.0001; 0 when there is no hum. */
  finish(): number {
    const lead = strongest(MAINS_HZ.flatMap((mains) => this.#leading(mains)));
    if (!lead) return 0;
    let sum = lead.hertz * lead.amplitude;
    let weights = lead.amplitude;
    for (let h = 1; h <= HARMONICS; h++) {
      const line = strongest(this.#spectrum.lines(h * lead.hertz, 0));
      if (!line || Math.abs(line.hertz / h - lead.hertz) > AGREES_HZ) continue;
      // An error of a line is divided by its number; strong lines are surer.
      const weight = h * h * line.amplitude;
      sum += (line.hertz / h) * weight;
      weights += weight;
    }
    return Math.round((sum / weights) * 1e4) / 1e4;
  }

  release(): void {
    this.#spectrum.release();
    this.#levels.release();
  }
}

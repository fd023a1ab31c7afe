// Hum, steady noise and pops, as the effects that mend them find them.
import { NoiseFinder } from "../../effects/noiseFinder";
import { PLOSIVE_STEPS, PlosiveFinder } from "../../effects/plosiveFinder";
import type { NoiseProfile } from "../../effects/noiseProfile";
import { frameSize } from "../../effects/powerFrames";
import { HumFinder, type HumFound } from "../../hum/humFinder";
import { formatDb, powerToDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type Look } from "./finding";

const LEAST_NOISE_DB = -65;
const PLOSIVE = { overDb: 14, mostDb: 36 };

/** Where the noise is a smaller share of what was heard as steady, the rest being hum, its level cannot be told. */
const LEAST_SHARE = 0.25;
/** So many bins to both sides of a line are the line's: a Hann window's main lobe, smoothed. */
const LINE_BINS = 3;

function humFinding({ hertz, levelDb, numbers, share }: HumFound): Finding {
  const part = share < 0.99 ? `, ${Math.round(share * 100)} % of the time` : "";
  return {
    kind: "hum",
    certainty: "sure",
    value: levelDb,
    unit: "dBFS",
    text: `Hum of ${hertz.toFixed(2)} Hz at ${formatDb(levelDb, 0)} dBFS, lines ${numbers.slice(0, 8).join(", ")}${numbers.length > 8 ? " …" : ""}${part}.`,
    places: [],
    step: { effect: "hum-removal", params: { mains: "find" } }
  };
}

function noiseFinding(levelDb: number, certainty: Finding["certainty"]): Finding[] {
  if (levelDb <= LEAST_NOISE_DB) return [];
  return [
    {
      kind: "noise",
      certainty,
      value: levelDb,
      unit: "dBFS",
      text: `Steady noise at ${formatDb(levelDb, 0)} dBFS.`,
      places: [],
      // The louder it is, the more is to be taken: to about -70 dBFS, within a moderate hand.
      step: {
        effect: "noise-reduction",
        params: { reductionDb: Math.max(8, Math.min(24, Math.round(levelDb + 70))) }
      }
    }
  ];
}

/** Share of a profile's power that is no hum: where lines lie, the power beside them counts. */
function shareBesides({ power, sampleRate }: NoiseProfile, { hertz, numbers }: HumFound): number {
  const perHertz = frameSize(sampleRate) / sampleRate;
  const isLine = Array.from(power, (_, k) =>
    numbers.some((number) => Math.abs(number * hertz * perHertz - k) < LINE_BINS)
  );
  const free = Array.from(power.keys()).filter((k) => !isLine[k]);
  if (free.length === 0) return 0;
  const besides = (k: number) => {
    const above = free.find((one) => one > k) ?? free[free.length - 1];
    const below = free.findLast((one) => one < k) ?? above;
    return Math.min(power[k], (power[below] + power[above]) / 2);
  };
  const sum = (of: (k: number) => number) => power.reduce((all, _, k) => all + of(k), 0);
  return sum((k) => (isLine[k] ? besides(k) : power[k])) / sum((k) => power[k]);
}

/**
 * Hum and steady noise. Hum is not told a second time as noise: its lines are steady too, and are heard as such. Where they are nearly all of what
 * is steady, noise is found when the hum is mended.
 */
export class SteadyLook implements Look {
  readonly #hum: HumFinder;
  readonly #noise: NoiseFinder;

  constructor(sampleRate: number, frames: number) {
    this.#hum = new HumFinder(sampleRate, frames);
    this.#noise = new NoiseFinder(sampleRate);
  }

  push(l: number, r: number, n: number): void {
    this.#hum.push(l, r, n);
    this.#noise.push(l, r, n);
  }

  finish(): Finding[] {
    const [hum, noise] = [this.#hum.finish(), this.#noise.finish()];
    const share = hum && noise ? shareBesides(noise.profile, hum) : 1;
    return [
      ...(hum ? [humFinding(hum)] : []),
      ...(noise && share >= LEAST_SHARE
        ? noiseFinding(noise.levelDb + powerToDb(share), noise.sure ? "sure" : "likely")
        : [])
    ];
  }

  release(): void {
    this.#hum.release();
    this.#noise.release();
  }
}

export class PlosiveLook implements Look {
  readonly #finder: PlosiveFinder;

  constructor(
    private readonly sampleRate: number,
    private readonly frames: number
  ) {
    this.#finder = new PlosiveFinder(sampleRate, frames);
  }

  push(l: number, r: number, n: number): void {
    this.#finder.push(l, r, n);
  }

  finish(): Finding[] {
    const found = this.#finder.finish(PLOSIVE);
    if (found.length === 0) return [];
    const rate = found.length / (this.frames / this.sampleRate / 60);
    return [
      {
        kind: "plosives",
        certainty: "possible",
        value: rate,
        unit: "a minute",
        text: `${found.length} possible pop${found.length === 1 ? "" : "s"} of breath; drums look alike.`,
        places: found.slice(0, MOST_PLACES).map(({ step, gains }) => ({
          from: Math.max(0, step) / PLOSIVE_STEPS,
          to: (step + gains.length) / PLOSIVE_STEPS
        })),
        step: { effect: "plosive-removal", params: {} }
      }
    ];
  }

  release(): void {
    this.#finder.release();
  }
}

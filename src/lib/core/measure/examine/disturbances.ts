// Hum, steady noise and pops, as the effects that mend them find them.
import { NoiseFinder } from "../../effects/noiseFinder";
import { PLOSIVE_STEPS, PlosiveFinder } from "../../effects/plosiveFinder";
import { HumFinder } from "../../hum/humFinder";
import { formatDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type Look } from "./finding";

const LEAST_NOISE_DB = -65;
const PLOSIVE = { overDb: 14, mostDb: 36 };

export class HumLook implements Look {
  readonly #finder: HumFinder;

  constructor(sampleRate: number, frames: number) {
    this.#finder = new HumFinder(sampleRate, frames);
  }

  push(l: number, r: number, n: number): void {
    this.#finder.push(l, r, n);
  }

  finish(): Finding[] {
    const hum = this.#finder.finish();
    if (!hum) return [];
    const part = hum.share < 0.99 ? `, ${Math.round(hum.share * 100)} % of the time` : "";
    return [
      {
        kind: "hum",
        certainty: "sure",
        value: hum.levelDb,
        unit: "dBFS",
        text: `Hum of ${hum.hertz.toFixed(2)} Hz at ${formatDb(hum.levelDb, 0)} dBFS, lines ${hum.numbers.slice(0, 8).join(", ")}${hum.numbers.length > 8 ? " …" : ""}${part}.`,
        places: [],
        step: { effect: "hum-removal", params: { mains: "find" } }
      }
    ];
  }

  release(): void {
    this.#finder.release();
  }
}

/** Where the noise is a smaller share of what was heard as steady, the rest being hum, its level cannot be told. */
const LEAST_SHARE = 0.25;

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

/**
 * Findings in which hum is not told a second time as noise: lines are steady too, and are heard as such. Their power is taken off the noise's; where
 * they are nearly all of it, noise is found when the hum is mended.
 */
export function apartFromHum(found: readonly Finding[]): Finding[] {
  const hum = found.find(({ kind }) => kind === "hum");
  if (!hum) return [...found];
  return found.flatMap((finding) => {
    if (finding.kind !== "noise") return [finding];
    const share = 1 - 10 ** ((hum.value - finding.value) / 10);
    return share < LEAST_SHARE ? [] : noiseFinding(finding.value + 10 * Math.log10(share), finding.certainty);
  });
}

export class NoiseLook implements Look {
  readonly #finder: NoiseFinder;

  constructor(sampleRate: number) {
    this.#finder = new NoiseFinder(sampleRate);
  }

  push(l: number, r: number, n: number): void {
    this.#finder.push(l, r, n);
  }

  finish(): Finding[] {
    const noise = this.#finder.finish();
    return noise ? noiseFinding(noise.levelDb, noise.sure ? "sure" : "likely") : [];
  }

  release(): void {
    this.#finder.release();
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

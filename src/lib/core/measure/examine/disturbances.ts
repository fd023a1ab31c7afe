// Hum, steady noise, clicks and pops, as the effects that mend them find them.
import { ClickRepairer, clickLatency } from "../../audio/clickRepairer";
import { StereoBlock } from "../../audio/block";
import { NoiseFinder } from "../../effects/noiseFinder";
import { PLOSIVE_STEPS, PlosiveFinder } from "../../effects/plosiveFinder";
import { HumFinder } from "../../hum/humFinder";
import { kernels } from "../../kernels/instance";
import { formatDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type FindingPlace, type Look } from "./finding";

const LEAST_NOISE_DB = -65;
const LEAST_CLICKS = 4;
const CLICKS_A_MINUTE = 20;
/** Stricter than the effect is by itself: what is reported should be one. */
const CLICK_THRESHOLD = 16;
const LONGEST_CLICK_SECONDS = 0.0015;
const ONE_CLICK_SECONDS = 0.01;
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

export class ClickLook implements Look {
  readonly #repairer: ClickRepairer;
  readonly #block = new StereoBlock();
  readonly #latency: number;
  /** The input, until what is made of it comes. */
  readonly #past: Float32Array;
  readonly #at: number[] = [];
  #frame = 0;

  constructor(
    private readonly sampleRate: number,
    private readonly frames: number
  ) {
    const settings = { threshold: CLICK_THRESHOLD, longestSeconds: LONGEST_CLICK_SECONDS };
    this.#repairer = new ClickRepairer(settings, sampleRate, 0);
    this.#latency = clickLatency(sampleRate);
    this.#past = new Float32Array(this.#latency);
  }

  push(l: number, r: number, n: number): void {
    kernels.copy(this.#block.left.ptr, l, n);
    kernels.copy(this.#block.right.ptr, r, n);
    this.#repairer.process(this.#block.left.ptr, this.#block.right.ptr, n);
    const out = this.#block.left.f32;
    const input = new Float32Array(kernels.memory.buffer, l, n);
    const apart = ONE_CLICK_SECONDS * this.sampleRate;
    for (let i = 0; i < n; i++) {
      const slot = this.#frame % this.#latency;
      const frame = this.#frame - this.#latency;
      if (frame >= 0 && out[i] !== this.#past[slot] && frame - (this.#at.at(-1) ?? -apart) >= apart)
        this.#at.push(frame);
      this.#past[slot] = input[i];
      this.#frame++;
    }
  }

  finish(): Finding[] {
    const minutes = this.frames / this.sampleRate / 60;
    const rate = this.#at.length / minutes;
    if (this.#at.length < LEAST_CLICKS || rate <= CLICKS_A_MINUTE) return [];
    const places: FindingPlace[] = this.#at.slice(0, MOST_PLACES).map((frame) => ({
      from: frame / this.sampleRate,
      to: frame / this.sampleRate + LONGEST_CLICK_SECONDS
    }));
    return [
      {
        kind: "clicks",
        certainty: "likely",
        value: rate,
        unit: "a minute",
        text: `${Math.round(rate)} clicks a minute.`,
        places,
        step: { effect: "click-repair", params: {} }
      }
    ];
  }

  release(): void {
    this.#repairer.release();
    this.#block.release();
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

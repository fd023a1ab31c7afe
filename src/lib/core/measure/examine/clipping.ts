import { kernels } from "../../kernels/instance";
import { gainToDb, formatDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type FindingPlace, type Look } from "./finding";

/** A flat top: samples in a row within rounding of each other, which the sound leaves steeply on both sides. */
const FLAT = 0.0005;
const ROUNDING = 2.5 / 32768;
const LEAST_SAMPLES = 3;
const LEAVES = 0.01;
const LEAST_LEVEL = 0.02;
const LEAST_TOPS = 4;
const PER_MILLION = 2;

interface Top {
  readonly frame: number;
  readonly samples: number;
  readonly height: number;
}

/** One sign of one side: flat tops at its largest value. */
class Side {
  #tops: Top[] = [];
  #most = 0;
  #run = 0;
  #height = 0;
  #before = [0, 0];
  #entered = false;
  #pending: (Top & { readonly at: number }) | undefined;
  #frame = 0;

  take(x: number): void {
    if (x > this.#most) this.#most = x;
    // The sound must fall behind a top within two samples too.
    if (this.#pending && x < this.#pending.height * (1 - LEAVES)) {
      this.#tops.push(this.#pending);
      this.#pending = undefined;
    } else if (this.#pending && this.#frame - this.#pending.at > 2) this.#pending = undefined;
    const near = Math.max(ROUNDING, FLAT * this.#height);
    if (this.#run > 0 && Math.abs(x - this.#height) <= near) this.#run++;
    else {
      if (this.#run >= LEAST_SAMPLES && this.#entered) {
        const top = { frame: this.#frame - this.#run, samples: this.#run, height: this.#height };
        if (x < this.#height * (1 - LEAVES)) this.#tops.push(top);
        else this.#pending = { ...top, at: this.#frame };
      }
      this.#run = x > LEAST_LEVEL ? 1 : 0;
      this.#height = x;
      this.#entered = Math.min(...this.#before) < x * (1 - LEAVES);
    }
    this.#before = [this.#before[1], x];
    this.#frame++;
  }

  /** Tops at the largest value: lower ones are the sound's own. */
  tops(): Top[] {
    const near = Math.max(ROUNDING, FLAT * this.#most);
    return this.#tops.filter(({ height }) => height >= this.#most - near);
  }

  get frames(): number {
    return this.#frame;
  }

  get most(): number {
    return this.#most;
  }
}

export class ClippingLook implements Look {
  readonly #sides = Array.from({ length: 4 }, () => new Side());

  constructor(private readonly sampleRate: number) {}

  push(l: number, r: number, n: number): void {
    [l, r].forEach((at, c) => {
      const x = new Float32Array(kernels.memory.buffer, at, n);
      const [up, down] = [this.#sides[2 * c], this.#sides[2 * c + 1]];
      for (let i = 0; i < n; i++) {
        up.take(x[i]);
        down.take(-x[i]);
      }
    });
  }

  finish(): Finding[] {
    const tops = this.#sides.flatMap((side) => side.tops()).sort((a, b) => a.frame - b.frame);
    const samples = tops.reduce((sum, top) => sum + top.samples, 0);
    const all = this.#sides[0].frames;
    // A mono sound is on both sides.
    if (tops.length < 2 * LEAST_TOPS || samples < (2 * PER_MILLION * all) / 1e6) return [];
    const places: FindingPlace[] = [];
    for (const { frame, samples: length } of tops) {
      const from = frame / this.sampleRate;
      if (places.length < MOST_PLACES && (places.length === 0 || from - places[places.length - 1].to > 0.1))
        places.push({ from, to: (frame + length) / this.sampleRate });
    }
    const level = gainToDb(Math.max(...this.#sides.map((side) => side.most)));
    const percent = (samples / 2 / all) * 100;
    return [
      {
        kind: "clipped",
        certainty: "sure",
        value: percent,
        unit: "%",
        text: `Clipped at ${formatDb(level)} dBFS: ${percent.toFixed(percent < 0.1 ? 3 : 1)} % of the samples, ${Math.round(tops.length / 2)} tops.`,
        places
      }
    ];
  }

  release(): void {
    // It holds no memory.
  }
}

// Tops that are flat because something could not follow them: samples in a row within rounding of each other at the sound's largest value, which
// it leaves steeply on both sides.
import { kernels } from "../kernels/instance";

const FLAT = 0.0005;
const ROUNDING = 2.5 / 32768;
const LEAST_SAMPLES = 3;
const LEAVES = 0.01;
const LEAST_LEVEL = 0.02;
const LEAST_TOPS = 4;
const PER_MILLION = 2;

export interface FlatTop {
  readonly frame: number;
  readonly samples: number;
  readonly height: number;
}

/** Whether flat tops, of both signs of two sides, are so many that the sound was clipped; a mono sound is on both sides. */
export function areClipped(tops: readonly FlatTop[], frames: number): boolean {
  const samples = tops.reduce((sum, top) => sum + top.samples, 0);
  return tops.length >= 2 * LEAST_TOPS && samples >= (2 * PER_MILLION * frames) / 1e6;
}

/** How far below its largest value a top may lie and still be one of those. */
function nearTo(height: number): number {
  return Math.max(ROUNDING, FLAT * height);
}

/** Finds the flat tops of one sign of one channel. */
export class FlatTops {
  #tops: FlatTop[] = [];
  #most = 0;
  #run = 0;
  #height = 0;
  #before = 0;
  #last = 0;
  #entered = false;
  #pending: (FlatTop & { readonly at: number }) | undefined;
  #frame = 0;

  /** The next sample; of the lower side its negative. */
  take(x: number): void {
    if (x > this.#most) this.#most = x;
    // The sound must fall behind a top within two samples too.
    if (this.#pending && x < this.#pending.height * (1 - LEAVES)) {
      this.#tops.push(this.#pending);
      this.#pending = undefined;
    } else if (this.#pending && this.#frame - this.#pending.at > 2) this.#pending = undefined;
    if (this.#run > 0 && Math.abs(x - this.#height) <= nearTo(this.#height)) this.#run++;
    else {
      if (this.#run >= LEAST_SAMPLES && this.#entered) {
        const top = { frame: this.#frame - this.#run, samples: this.#run, height: this.#height };
        if (x < this.#height * (1 - LEAVES)) this.#tops.push(top);
        else this.#pending = { ...top, at: this.#frame };
      }
      this.#run = x > LEAST_LEVEL ? 1 : 0;
      this.#height = x;
      this.#entered = Math.min(this.#before, this.#last) < x * (1 - LEAVES);
    }
    this.#before = this.#last;
    this.#last = x;
    this.#frame++;
  }

  /** Tops at the largest value: lower ones are the sound's own. */
  tops(): FlatTop[] {
    return this.#tops.filter(({ height }) => height >= this.#most - nearTo(this.#most));
  }

  /** What reaches this is at the largest value, within rounding. */
  get level(): number {
    return this.#most - nearTo(this.#most);
  }

  get frames(): number {
    return this.#frame;
  }

  get most(): number {
    return this.#most;
  }
}

/** Gives n frames of two sides, at addresses l and r, to the finders of left above and below zero, right above and below. */
export function takeSides(finders: readonly FlatTops[], l: number, r: number, n: number): void {
  [l, r].forEach((at, c) => {
    const x = new Float32Array(kernels.memory.buffer, at, n);
    const [up, down] = [finders[2 * c], finders[2 * c + 1]];
    for (let i = 0; i < n; i++) {
      up.take(x[i]);
      down.take(-x[i]);
    }
  });
}

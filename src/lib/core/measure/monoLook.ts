// What becomes of a stereo sound when it is folded down to mono: how alike its sides are, what is lost, and where in the spectrum.
import { BLOCK, StereoBlock } from "../audio/block";
import { PowerFrames } from "../effects/powerFrames";
import { kernels } from "../kernels/instance";
import { Meter } from "./meter";

/** A band of the spectrum, in hertz. */
export interface Band {
  readonly from: number;
  readonly to: number;
}

export interface MonoView {
  /** Correlation of the sides, -1 to 1; 1 for a sound in the middle, null for silence or one dead side. */
  readonly correlation: number | null;
  /** Loudness of the fold-down less that of the stereo sound, in LU: 0 in the middle, -3 for sides that have nothing in common. */
  readonly lossLu: number;
  /** Third-octave bands with what each loses, in dB. */
  readonly bands: readonly (Band & { readonly lossDb: number })[];
  /** The widest stretch of bands that lose more than 6 dB each, and what it loses as a whole; null: there is none. */
  readonly cancelled: (Band & { readonly lossDb: number }) | null;
}

const LOWEST_HZ = 40;
const HIGHEST_HZ = 16000;
/** A band is cancelled from here on: half of what sides with nothing in common lose lies above it (common practice, no source). */
const CANCELLED_DB = -6;
/** Bands so far below the loudest are not told of. */
const QUIET = 1e-6;

export class MonoLook {
  readonly #stereo: Meter;
  readonly #mono: Meter;
  readonly #both: PowerFrames;
  readonly #sum: PowerFrames;
  readonly #work = new StereoBlock(BLOCK);
  readonly #powers: { readonly both: Float64Array; readonly sum: Float64Array };
  #left = 0;
  #right = 0;
  #cross = 0;

  constructor(private readonly sampleRate: number) {
    this.#stereo = new Meter(sampleRate, { peaks: false });
    this.#mono = new Meter(sampleRate, { peaks: false });
    this.#both = new PowerFrames(sampleRate);
    this.#sum = new PowerFrames(sampleRate);
    const bins = this.#both.size / 2 + 1;
    this.#powers = { both: new Float64Array(bins), sum: new Float64Array(bins) };
  }

  /** Takes n ≤ BLOCK frames. l, r: addresses, left as they are. */
  push(l: number, r: number, n: number): void {
    const [a, b] = [l, r].map((at) => new Float32Array(kernels.memory.buffer, at, n));
    for (let i = 0; i < n; i++) {
      this.#left += a[i] * a[i];
      this.#right += b[i] * b[i];
      this.#cross += a[i] * b[i];
    }
    const { left, right } = this.#work;
    kernels.copy(left.ptr, l, n);
    kernels.addScaled(left.ptr, r, n, 1);
    kernels.gain(left.ptr, n, 0.5);
    kernels.copy(right.ptr, left.ptr, n);
    this.#stereo.push(l, r, n);
    this.#mono.push(left.ptr, right.ptr, n);
    this.#both.push(l, r, n, (power) => power.forEach((p, k) => (this.#powers.both[k] += p)));
    this.#sum.push(left.ptr, right.ptr, n, (power) => power.forEach((p, k) => (this.#powers.sum[k] += p)));
  }

  finish(): MonoView {
    const [stereo, mono] = [this.#stereo.loudness().integratedLufs, this.#mono.loudness().integratedLufs];
    const size = Math.sqrt(this.#left * this.#right);
    const bands = this.#bands();
    return {
      correlation: size > 0 ? Math.max(-1, Math.min(1, this.#cross / size)) : null,
      // A fold-down that is silent has lost all there was.
      lossLu: Number.isFinite(stereo) ? (Number.isFinite(mono) ? mono - stereo : -Infinity) : 0,
      bands: bands.map(({ from, to, both, sum }) => ({ from, to, lossDb: loss(sum, both) })),
      cancelled: cancelledOf(bands)
    };
  }

  #bands(): Summed[] {
    const perBin = this.sampleRate / this.#both.size;
    const all: Summed[] = [];
    const step = 2 ** (1 / 3);
    for (let from = LOWEST_HZ; from < HIGHEST_HZ; from *= step) {
      const to = from * step;
      const first = Math.max(1, Math.round(from / perBin));
      const last = Math.min(this.#powers.both.length, Math.max(first + 1, Math.round(to / perBin)));
      const of = (powers: Float64Array) => powers.subarray(first, last).reduce((x, p) => x + p, 0);
      all.push({ from, to, both: of(this.#powers.both), sum: of(this.#powers.sum) });
    }
    const loudest = Math.max(...all.map(({ both }) => both));
    return all.filter(({ both }) => both > loudest * QUIET && both > 0);
  }

  release(): void {
    for (const one of [this.#stereo, this.#mono, this.#both, this.#sum, this.#work]) one.release();
  }
}

interface Summed extends Band {
  readonly both: number;
  readonly sum: number;
}

const loss = (sum: number, both: number) => 10 * Math.log10(Math.max(sum, both * 1e-12) / both);

function cancelledOf(bands: readonly Summed[]): MonoView["cancelled"] {
  let best: Summed[] = [];
  let run: Summed[] = [];
  for (const band of bands) {
    run = loss(band.sum, band.both) < CANCELLED_DB ? [...run, band] : [];
    if (run.length > best.length) best = run;
  }
  const [first] = best;
  const last = best.at(-1);
  if (!first || !last) return null;
  const total = (of: "both" | "sum") => best.reduce((x, band) => x + band[of], 0);
  return { from: first.from, to: last.to, lossDb: loss(total("sum"), total("both")) };
}

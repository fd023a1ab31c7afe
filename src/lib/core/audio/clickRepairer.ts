// Clicks are samples that neither the past nor the future predicts; they are replaced by the values that make the prediction error least.
// Detection by the residual of an autoregressive model, interpolation by least squares: S. J. Godsill, P. J. W. Rayner, "Digital Audio
// Restoration" (1998), sections 5.2 and 5.3; A. J. E. M. Janssen, R. N. J. Veldhuis, L. B. Vries, IEEE Trans. ASSP 34 (1986).
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

const ORDER = 32;
const HOP_SECONDS = 0.0213;
const CONTEXT = 0.5;
const LOOKS = 3;
const RANK = 16;
const ROUNDS = 3;
const NEAR_SECONDS = 0.012;
const REACH_SECONDS = 0.012;
/** Share of the threshold that a click must pass against its neighbourhood. */
const AROUND = 0.35;
/** Share of the threshold that still belongs to a click next to where it was found. */
const EDGE = 0.4;
const NEAR = 6;
// Residuals below this are rounding, not clicks.
const LEAST = 1e-5;

function hopFrames(sampleRate: number): number {
  return Math.max(256, Math.round(HOP_SECONDS * sampleRate));
}

function contextFrames(sampleRate: number): number {
  return Math.max(128, Math.round(hopFrames(sampleRate) * CONTEXT));
}

/** Frames by which the output lies behind. */
export function clickLatency(sampleRate: number): number {
  return hopFrames(sampleRate) + contextFrames(sampleRate);
}

export interface ClickSettings {
  /** A click stands out of the usual prediction error by this factor. */
  readonly threshold: number;
  readonly longestSeconds: number;
}

/** Model of one stretch of one channel, and the repair of its middle. Work space is allocated once. */
class Model {
  readonly #r = new Float64Array(ORDER + 1);
  readonly #a = new Float64Array(ORDER + 1);
  readonly #swap = new Float64Array(ORDER + 1);
  readonly #correlation = new Float64Array(ORDER + 1);
  readonly #error: Float64Array;
  readonly #sorted: Float64Array;
  readonly #matrix: Float64Array;
  readonly #right: Float64Array;
  readonly #forward: Float64Array;
  readonly #backward: Float64Array;
  readonly #ranks = new Float64Array(RANK);
  /** 1 where a click was found. */
  readonly #clicks: Uint8Array;

  /**
   * @param reach frames to both sides that count as a click's neighbourhood
   * @param near frames to both sides from which it is interpolated
   */
  constructor(
    length: number,
    private readonly longest: number,
    private readonly reach: number,
    private readonly near: number
  ) {
    this.#forward = new Float64Array(length);
    this.#backward = new Float64Array(length);
    this.#error = new Float64Array(length);
    this.#sorted = new Float64Array(length);
    this.#matrix = new Float64Array(4 * longest * longest);
    this.#right = new Float64Array(2 * longest);
    this.#clicks = new Uint8Array(length);
  }

  /** Autocorrelation method with Levinson's recursion. False for silence. */
  #fit(x: Float64Array): boolean {
    const r = this.#r;
    const a = this.#a;
    for (let k = 0; k <= ORDER; k++) {
      let sum = 0;
      for (let i = k; i < x.length; i++) sum += x[i] * x[i - k];
      r[k] = sum;
    }
    if (r[0] < 1e-12) return false;
    r[0] *= 1 + 1e-9;
    a.fill(0);
    a[0] = 1;
    let error = r[0];
    for (let k = 1; k <= ORDER; k++) {
      let sum = 0;
      for (let j = 0; j < k; j++) sum += a[j] * r[k - j];
      const reflection = -sum / error;
      for (let j = 0; j <= k; j++) this.#swap[j] = a[j] + reflection * a[k - j];
      for (let j = 0; j <= k; j++) a[j] = this.#swap[j];
      error *= 1 - reflection * reflection;
      if (error <= 0) return false;
    }
    this.#correlate();
    return true;
  }

  #correlate(): void {
    const a = this.#a;
    for (let k = 0; k <= ORDER; k++) {
      let sum = 0;
      for (let j = 0; j + k <= ORDER; j++) sum += a[j] * a[j + k];
      this.#correlation[k] = sum;
    }
  }

  /**
   * A model of [from, to) alone by J. P. Burg's method (thesis, Stanford, 1975): sharp on the few milliseconds around a click, where a voice
   * stays the same. False when there is nothing to model.
   */
  #fitNear(x: Float64Array, from: number, to: number): boolean {
    const n = to - from;
    const f = this.#forward;
    const b = this.#backward;
    const a = this.#a;
    for (let i = 0; i < n; i++) f[i] = b[i] = x[from + i];
    a.fill(0);
    a[0] = 1;
    for (let k = 1; k <= ORDER; k++) {
      let top = 0;
      let bottom = 0;
      for (let i = k; i < n; i++) {
        top += f[i] * b[i - 1];
        bottom += f[i] * f[i] + b[i - 1] * b[i - 1];
      }
      if (bottom < 1e-14) return k > 1;
      const reflection = (-2 * top) / bottom;
      for (let j = 0; j <= k; j++) this.#swap[j] = a[j] + reflection * a[k - j];
      for (let j = 0; j <= k; j++) a[j] = this.#swap[j];
      for (let i = n - 1; i >= k; i--) {
        const forward = f[i];
        f[i] = forward + reflection * b[i - 1];
        b[i] = b[i - 1] + reflection * forward;
      }
    }
    return true;
  }

  /** Interpolates a gap, and again with the model of what that made of its surroundings. */
  #mend(x: Float64Array, begin: number, end: number): void {
    this.#interpolate(x, begin, end);
    for (let round = 0; round < ROUNDS; round++) {
      if (!this.#fitNear(x, Math.max(0, begin - this.near), Math.min(x.length, end + this.near))) return;
      this.#correlate();
      this.#interpolate(x, begin, end);
    }
  }

  /** The smaller of the errors of prediction from the past and from the future, for every sample of the stretch but its ends. */
  #residual(x: Float64Array): number {
    const a = this.#a;
    const n = x.length;
    this.#error.fill(0);
    for (let i = ORDER; i < n - ORDER; i++) {
      let past = 0;
      let future = 0;
      for (let k = 0; k <= ORDER; k++) {
        past += a[k] * x[i - k];
        future += a[k] * x[i + k];
      }
      this.#error[i] = Math.min(Math.abs(past), Math.abs(future));
    }
    this.#sorted.set(this.#error);
    this.#sorted.sort();
    // The zeros of the ends lie first.
    const first = 2 * ORDER;
    return this.#sorted[first + ((n - first) >> 1)];
  }

  /**
   * Whether an error stands out of its neighbourhood too. The pulses of a voice or a drum recur or ring; a click comes alone: so the
   * measure is the neighbours' sixteenth largest error, which a click nearby does not reach but a pulse train does.
   */
  #alone(at: number, factor: number): boolean {
    const ranks = this.#ranks;
    ranks.fill(0);
    const from = Math.max(ORDER, at - this.reach);
    const to = Math.min(this.#error.length - ORDER, at + this.reach);
    for (let i = from; i < to; i++) {
      if (Math.abs(i - at) <= this.longest) continue;
      let e = this.#error[i];
      if (e <= ranks[RANK - 1]) continue;
      for (let k = 0; k < RANK; k++)
        if (e > ranks[k]) {
          const smaller = ranks[k];
          ranks[k] = e;
          e = smaller;
        }
    }
    return this.#error[at] > factor * ranks[RANK - 1];
  }

  /** Marks clicks that begin in [from, to) and reach up to `longest`. Returns whether there are any. */
  #mark(x: Float64Array, from: number, to: number, threshold: number): boolean {
    const limit = Math.max(LEAST, threshold * this.#residual(x));
    let any = false;
    for (let i = from; i < to; i++) {
      if (this.#error[i] <= limit || !this.#alone(i, threshold * AROUND)) continue;
      let end = i + 1;
      for (let k = i + 1; k < Math.min(x.length - 2 * ORDER, i + this.longest); k++)
        if (this.#error[k] > limit * EDGE && k - end < NEAR) end = k + 1;
      let begin = i;
      for (let k = i - 1; k > Math.max(ORDER, i - NEAR); k--) if (this.#error[k] > limit * EDGE) begin = k;
      if (end - begin <= this.longest) this.#clicks.fill(1, begin, end);
      any = true;
      i = end;
    }
    return any;
  }

  /** Finds and repairs clicks that begin in [from, to). */
  repair(x: Float64Array, from: number, to: number, threshold: number): void {
    this.#clicks.fill(0);
    // A strong click spoils the model that should find it: every look is at a sound that is better already.
    for (let look = 0; look < LOOKS; look++) {
      if (!this.#fit(x)) return;
      const any = this.#mark(x, from, to, threshold);
      if (look === 0 && !any) return;
      for (let i = ORDER; i < x.length - ORDER; i++) {
        if (this.#clicks[i] === 0) continue;
        let end = i;
        while (this.#clicks[end] === 1) end++;
        if (end - i <= 2 * this.longest) this.#mend(x, i, end);
        i = end;
      }
    }
  }

  /** The samples [begin, end) that make the sum of squared prediction errors least: B x = -c, B from the coefficients' autocorrelation. */
  #interpolate(x: Float64Array, begin: number, end: number): void {
    const m = end - begin;
    const L = this.#matrix;
    const b = this.#right;
    for (let i = 0; i < m; i++) {
      let sum = 0;
      for (let k = -ORDER; k <= ORDER; k++) {
        const j = begin + i + k;
        if (j < begin || j >= end) sum += this.#correlation[Math.abs(k)] * x[j];
      }
      b[i] = -sum;
    }
    // Cholesky's decomposition.
    for (let i = 0; i < m; i++)
      for (let j = 0; j <= i; j++) {
        let sum = i - j <= ORDER ? this.#correlation[i - j] : 0;
        if (i === j) sum *= 1 + 1e-10;
        for (let k = 0; k < j; k++) sum -= L[i * m + k] * L[j * m + k];
        if (i === j) {
          if (sum <= 0) return;
          L[i * m + i] = Math.sqrt(sum);
        } else L[i * m + j] = sum / L[j * m + j];
      }
    for (let i = 0; i < m; i++) {
      for (let k = 0; k < i; k++) b[i] -= L[i * m + k] * b[k];
      b[i] /= L[i * m + i];
    }
    for (let i = m - 1; i >= 0; i--) {
      for (let k = i + 1; k < m; k++) b[i] -= L[k * m + i] * b[k];
      b[i] /= L[i * m + i];
    }
    for (let i = 0; i < m; i++) x[begin + i] = b[i];
  }
}

/** Repairs a stereo stream, hop by hop, each channel on its own. */
export class ClickRepairer {
  readonly #hop: number;
  readonly #context: number;
  readonly #model: Model;
  readonly #x: Float64Array;
  /** Two contexts and a hop of each channel; the middle is repaired in place and leaves at the front. */
  readonly #line: Buffer;
  readonly #length: number;
  #at: number;

  constructor(
    private readonly settings: ClickSettings,
    sampleRate: number,
    position: number
  ) {
    this.#hop = hopFrames(sampleRate);
    this.#context = contextFrames(sampleRate);
    this.#length = this.#hop + 2 * this.#context;
    const longest = Math.max(2, Math.round(settings.longestSeconds * sampleRate));
    this.#model = new Model(
      this.#length,
      longest,
      Math.round(REACH_SECONDS * sampleRate),
      Math.max(6 * ORDER, Math.round(NEAR_SECONDS * sampleRate))
    );
    this.#x = new Float64Array(this.#length);
    this.#line = new Buffer((this.#length + this.#hop) * 8);
    this.#at = ((position % this.#hop) + this.#hop) % this.#hop;
  }

  /*
   *   | done, leaving | context | middle: repaired next | context |
   *   0              hop       hop + context
   */
  process(l: number, r: number, n: number): void {
    const side = (this.#length + this.#hop) * 4;
    const newest = this.#line.ptr + this.#length * 4;
    // What leaves: `latency` frames before what comes.
    const oldest = newest - (this.#hop + this.#context) * 4;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#hop - this.#at);
      const at = this.#at * 4;
      kernels.copy(newest + at, l + done * 4, m);
      kernels.copy(newest + side + at, r + done * 4, m);
      kernels.copy(l + done * 4, oldest + at, m);
      kernels.copy(r + done * 4, oldest + side + at, m);
      this.#at += m;
      done += m;
      if (this.#at < this.#hop) continue;
      for (let c = 0; c < 2; c++) {
        const base = this.#line.ptr + c * side;
        kernels.copy(base, base + this.#hop * 4, this.#length);
        this.#mend(c * (this.#length + this.#hop));
      }
      this.#at = 0;
    }
  }

  #mend(start: number): void {
    const f32 = this.#line.f32;
    const x = this.#x;
    for (let i = 0; i < x.length; i++) x[i] = f32[start + i];
    this.#model.repair(x, this.#context, this.#context + this.#hop, this.settings.threshold);
    for (let i = this.#context; i < this.#length; i++) f32[start + i] = x[i];
  }

  release(): void {
    this.#line.release();
  }
}

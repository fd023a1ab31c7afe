// Finds clicks in a stretch of sound and replaces them. Detection by the errors of an autoregressive model, interpolation by least squares:
// S. J. Godsill, P. J. W. Rayner, "Digital Audio Restoration" (1998), sections 5.2 and 5.3. What keeps voices and drums from being taken for
// clicks, and clicks from being taken for more than they are, is our own.
import { Buffer } from "../kernels/memory";
import { Autoregression } from "./autoregression";
import { LevelEvener } from "./levelEvener";

/** Order of the model that finds clicks, and of the one that mends them. */
const ORDER = 32;
const NEAR_ORDER = 48;
/** A strong click spoils the model that should find it: every look is at a sound that is better already, and mends what was found before anew. */
const LOOKS = 3;
const ROUNDS = 2;
/** Frames in which a click that no prediction from the past explains must end for those from the future; a power of two. */
const WIDE = 8;
/** Every so many errors make the median. */
const SPARSE = 4;
const RANK = 16;
/** Share of the threshold that a click must pass against its neighbourhood. */
const AROUND = 0.35;
/** Share of the threshold that still belongs to a click next to where it was found, and the largest hole in it. */
const EDGE = 0.4;
const HOLE = 6;
/** What was put in belongs to the click where it differs by more than this share of the largest difference. */
const SHARE = 0.06;
const MARGIN = 1;
/** Clicks up to this share of the longest may be softer than the sound around them; longer ones are louder by this factor. */
const SHORT = 0.36;
const LOUDER = 1.3;
/** For those that are rough from end to end, which no pulse is, this suffices. */
const ROUGH_LOUDER = 0.5;
/** Where the sound itself has its top, what is put in may come out a little higher. */
const SLACK = 1.05;
/** How often a click may turn out to be longer, and the frames beside it by which that is seen. */
const GROWTH = 4;
const BESIDE = 3;
/** What is put in must leave less than this share (RMS) of the errors that were there; more of it where the threshold is lower than usual. */
const EXPLAINED = 0.3;
const USUAL_THRESHOLD = 12;
/** Errors below this are rounding, not clicks. */
const LEAST = 1e-5;

/** Models of one stretch of one channel, and the repair of its middle. Work space is allocated once. */
export class ClickMender {
  readonly #wide: Autoregression;
  readonly #near: Autoregression;
  /** Frames to both sides of a gap that its model is made of. */
  readonly #around: number;
  readonly #evener: LevelEvener;
  readonly #sound: Buffer;
  readonly #past: Buffer;
  readonly #future: Buffer;
  /** By how much a sample, as part of a click, stands out. */
  readonly #error: Float64Array;
  readonly #sorted: Float64Array;
  readonly #before: Float64Array;
  /** The stretch before anything was mended. */
  readonly #given: Float64Array;
  readonly #ranks = new Float64Array(RANK);
  /** 1 where a click was found. */
  readonly #clicks: Uint8Array;

  /**
   * @param length frames of the stretch, a multiple of 4
   * @param longest frames of a click
   * @param reach frames to both sides that count as a click's neighbourhood
   * @param near frames to both sides from which it is interpolated
   */
  constructor(
    private readonly length: number,
    private readonly longest: number,
    private readonly reach: number,
    near: number
  ) {
    this.#around = Math.max(4 * NEAR_ORDER, near);
    this.#wide = new Autoregression(ORDER, 0, 2 * longest);
    this.#near = new Autoregression(NEAR_ORDER, 2 * this.#around + 2 * longest, 2 * longest);
    this.#evener = new LevelEvener(length, ORDER);
    this.#sound = new Buffer(length * 8);
    this.#past = new Buffer(length * 8);
    this.#future = new Buffer(length * 8);
    this.#error = new Float64Array(length);
    this.#sorted = new Float64Array(Math.floor((length - 2 * ORDER) / SPARSE));
    this.#before = new Float64Array(length);
    this.#given = new Float64Array(length);
    this.#clicks = new Uint8Array(length);
  }

  /** The stretch: to be filled, and read after `repair`. Take it anew after anything that may allocate. */
  get sound(): Float64Array {
    return this.#sound.f64;
  }

  /** Finds and repairs clicks that begin in [from, to). A click stands out of the usual prediction error by the factor `threshold`. */
  repair(from: number, to: number, threshold: number): void {
    const x = this.sound;
    this.#clicks.fill(0);
    this.#given.set(x);
    const explained = (EXPLAINED * USUAL_THRESHOLD) / threshold;
    for (let look = 0; look < LOOKS; look++) {
      if (!this.#wide.fitCorrelation(this.#evener.even(x), this.length)) return;
      const limit = Math.max(LEAST, threshold * this.#findErrors());
      if (!this.#mark(from, to, threshold, limit) && look === 0) return;
      for (let i = NEAR_ORDER; i < this.length - NEAR_ORDER; i++) {
        if (this.#clicks[i] === 0) continue;
        let end = i;
        while (this.#clicks[end] === 1) end++;
        if (end - i <= this.longest) this.#heal(x, i, end, limit, explained);
        i = end;
      }
    }
  }

  /**
   * The error of every sample but those of the ends: as small as its own from the past and as the largest from the future of those that follow.
   * So a click stands out from its first sample to its last, however smooth it is between. Returns the usual one, their median.
   */
  #findErrors(): number {
    const n = this.length - 2 * ORDER;
    this.#wide.errors(this.#sound.ptr + ORDER * 8, n, this.#past.ptr, this.#future.ptr);
    const past = this.#past.f64;
    const future = this.#future.f64;
    const error = this.#error;
    // The largest of 2, 4, then WIDE in a row.
    for (let step = 1; step < WIDE; step *= 2)
      for (let i = 0; i < n - step; i++) if (future[i + step] > future[i]) future[i] = future[i + step];
    for (let i = 0; i < n; i++) error[ORDER + i] = Math.min(future[i], past[i]);
    const sorted = this.#sorted;
    for (let i = 0; i < sorted.length; i++) sorted[i] = error[ORDER + i * SPARSE];
    sorted.sort();
    return sorted[sorted.length >> 1];
  }

  /**
   * Whether an error stands out of its neighbourhood too. The pulses of a voice or a drum recur or ring; a click comes alone: so the
   * measure is the neighbours' sixteenth largest error, which a click nearby does not reach but a pulse train does.
   */
  #alone(at: number, factor: number): boolean {
    const ranks = this.#ranks;
    ranks.fill(0);
    const from = Math.max(ORDER, at - this.reach);
    const to = Math.min(this.length - ORDER, at + this.reach);
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
  #mark(from: number, to: number, threshold: number, limit: number): boolean {
    let any = false;
    for (let i = from; i < to; i++) {
      if (this.#error[i] <= limit || !this.#alone(i, threshold * AROUND)) continue;
      let end = i + 1;
      for (let k = i + 1; k < Math.min(this.length - 2 * ORDER, i + this.longest); k++)
        if (this.#error[k] > limit * EDGE && k - end < HOLE) end = k + 1;
      let begin = i;
      for (let k = i - 1; k > Math.max(ORDER, i - HOLE); k--) if (this.#error[k] > limit * EDGE) begin = k;
      if (end - begin <= this.longest) this.#clicks.fill(1, begin, end);
      any = true;
      i = end;
    }
    return any;
  }

  /** Interpolates a gap, and again with a model of what that made of its surroundings. */
  #mend(x: Float64Array, begin: number, end: number): void {
    this.#wide.interpolate(x, begin, end);
    const from = Math.max(0, begin - this.#around);
    const n = (Math.min(this.length, end + this.#around) - from) & ~1;
    for (let round = 0; round < ROUNDS; round++) {
      if (!this.#near.fitBurg(this.#sound.ptr + from * 8, n)) return;
      this.#near.interpolate(x, begin, end);
    }
  }

  /**
   * Mends a click, and then only the part of it where that made a difference; and as long as what follows or comes before does not go with what
   * was put in, a little more of it: what died away smoothly was not found.
   */
  #heal(x: Float64Array, begin: number, end: number, limit: number, explained: number): void {
    const before = this.#before;
    const first = Math.max(NEAR_ORDER, begin - this.longest);
    const last = Math.min(this.length - NEAR_ORDER, end + this.longest);
    for (let i = first; i < last; i++) before[i] = x[i];
    this.#clicks.fill(0, begin, end);
    for (let round = 0; round < GROWTH; round++) {
      this.#mend(x, begin, end);
      let [from, to] = this.#changed(x, begin, end);
      if (from > begin || to < end) {
        for (let i = begin; i < end; i++) if (i < from || i >= to) x[i] = before[i];
        this.#mend(x, from, to);
      }
      [begin, end] = [from, to];
      const more = Math.max(2, (to - from) >> 1);
      if (this.#jumps(x, to, 1, limit)) to = Math.min(last, to + more);
      if (this.#jumps(x, from - 1, -1, limit)) from = Math.max(first, from - more);
      if ((from === begin && to === end) || to - from > this.longest) break;
      [begin, end] = [from, to];
    }
    if (this.#plausible(x, begin, end, first, last, limit) && this.#explains(x, begin, end, last, explained))
      this.#clicks.fill(1, begin, end);
    else for (let i = first; i < last; i++) x[i] = before[i];
  }

  /**
   * Nothing that is put in may be louder than the click and what is around it. And what is long must itself have stood out of what is around
   * it, or be unpredictable throughout: the pulse of a voice may look like a click, but is not that much louder than its neighbours, and rings.
   */
  #plausible(
    x: Float64Array,
    begin: number,
    end: number,
    first: number,
    last: number,
    limit: number
  ): boolean {
    const was = this.#peak(this.#before, begin, end);
    const around = Math.max(this.#peak(x, first, begin), this.#peak(x, end, last));
    return (
      this.#peak(x, begin, end) <= SLACK * Math.max(was, around) &&
      (end - begin <= this.longest * SHORT ||
        was > LOUDER * around ||
        (was > ROUGH_LOUDER * around && this.#roughness(begin, end) > limit))
    );
  }

  /**
   * Whether the sound goes far better with what was put in than with what was there. A click comes from outside: what follows it goes on from
   * what was before it. What the pulse of a voice or the hit of a drum makes ring comes from nowhere without it.
   */
  #explains(x: Float64Array, begin: number, end: number, last: number, explained: number): boolean {
    const given = this.#given;
    const [silentBefore, silentAfter] = [begin - NEAR_ORDER, end].map(
      (from) => this.#peak(given, from, from + NEAR_ORDER) === 0
    );
    // Where a sound begins or ends is no click; where there is nothing else, it is one.
    if (silentBefore || silentAfter) return silentBefore && silentAfter;
    let [now, before] = [0, 0];
    for (let i = begin; i < Math.min(last, end + NEAR_ORDER); i++) {
      now += this.#near.errorAt(x, i, 1) ** 2;
      before += this.#near.errorAt(given, i, 1) ** 2;
    }
    return now < explained ** 2 * before;
  }

  /** Root mean square of the errors of a stretch. */
  #roughness(begin: number, end: number): number {
    let sum = 0;
    for (let i = begin; i < end; i++) sum += this.#error[i] ** 2;
    return Math.sqrt(sum / (end - begin));
  }

  #peak(x: Float64Array, begin: number, end: number): number {
    let most = 0;
    for (let i = begin; i < end; i++) most = Math.max(most, Math.abs(x[i]));
    return most;
  }

  /** The part of a mended stretch that differs from what was there by more than a share of its largest difference. */
  #changed(x: Float64Array, begin: number, end: number): [number, number] {
    const before = this.#before;
    let most = 0;
    for (let i = begin; i < end; i++) most = Math.max(most, Math.abs(x[i] - before[i]));
    let from = begin;
    let to = end;
    while (from < to && Math.abs(x[from] - before[from]) < SHARE * most) from++;
    while (to > from && Math.abs(x[to - 1] - before[to - 1]) < SHARE * most) to--;
    return [Math.max(begin, from - MARGIN), Math.min(end, to + MARGIN)];
  }

  /** Whether what was put in beside x[at] predicts it, or its neighbours on the far side, with more than the usual error. */
  #jumps(x: Float64Array, at: number, direction: number, limit: number): boolean {
    for (let n = 0; n < BESIDE; n++)
      if (Math.abs(this.#near.errorAt(x, at + n * direction, direction)) > limit) return true;
    return false;
  }

  release(): void {
    for (const part of [this.#wide, this.#near, this.#evener, this.#sound, this.#past, this.#future])
      part.release();
  }
}

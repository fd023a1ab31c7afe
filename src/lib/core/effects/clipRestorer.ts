// Restores what was clipped in a whole sound: listens for the level at which it was, then works through the frames in which samples lie there.
import { BLOCK, StereoBlock } from "../audio/block";
import { areClipped, FlatTops, takeSides } from "../audio/flatTops";
import { SparseDeclipper, type ClippedFrame } from "../audio/sparseDeclipper";
import { hann } from "../audio/windows";
import { channelWeights } from "../measure/channelWeights";
import { Meter } from "../measure/meter";
import { gainToDb } from "../units/decibels";
import { factorOf, RunsBuilder, stepFor, type ClippedRuns } from "./clippedRuns";
import type { Spool } from "./description";
import { frameSize } from "./powerFrames";

/** The squares of windows that overlap by half add up to 1. */
const OVERLAP = 2;
/** Hops that one call of `work` settles: a third of a second. */
const HOPS = 16;
/** A channel's tops of one sign are clipped when there are so many; both signs seldom clip alike. */
const LEAST_TOPS = 3;

/** What was found. */
export interface Restored {
  /** For each channel. */
  readonly channels: readonly ClippedRuns[];
  /** Clipped samples, all channels. */
  readonly samples: number;
  /** Level in dBFS at which the lowest of them were clipped. */
  readonly levelDb: number;
  readonly truePeakDbtp: number;
}

/** A frame that has clipped samples: its channel, and where it begins in what was read. */
interface Job {
  readonly c: number;
  readonly from: number;
}

export class ClipRestorer {
  readonly #tops = Array.from({ length: 4 }, () => new FlatTops());
  readonly #size: number;
  readonly #hop: number;
  readonly #window: Float32Array;
  readonly #declipper: SparseDeclipper;
  readonly #meter: Meter;
  readonly #block: StereoBlock;
  readonly #sums: Float32Array[];
  readonly #runs: RunsBuilder[];
  readonly #pair: readonly [ClippedFrame, ClippedFrame];
  #frames = 0;
  #levels: readonly (readonly number[])[] | undefined;
  /** First frame of the sound whose values are settled by the next call of `work`. */
  #at = 0;

  /**
   * @param channels 1: both sides are the same
   * @param level from which on samples are clipped, 1 is full scale; 0: to be found
   * @param spool keeps the sound; given back by `release`
   */
  constructor(
    sampleRate: number,
    private readonly channels: 1 | 2,
    private readonly level: number,
    private readonly spool: Spool
  ) {
    this.#size = frameSize(sampleRate);
    this.#hop = this.#size / OVERLAP;
    this.#window = Float32Array.from(hann(this.#size), Math.sqrt);
    this.#declipper = new SparseDeclipper(this.#size, sampleRate);
    this.#meter = new Meter(sampleRate, { weights: channelWeights(channels) });
    // A call hears the frames that reach into its hops from both sides.
    const heard = (HOPS + 2 * (OVERLAP - 1)) * this.#hop;
    this.#block = new StereoBlock(heard);
    const frame = () => ({ given: new Float32Array(this.#size), bound: new Int8Array(this.#size) });
    this.#pair = [frame(), frame()];
    this.#sums = Array.from({ length: channels }, () => new Float32Array(heard));
    this.#runs = Array.from({ length: channels }, () => new RunsBuilder());
  }

  /** Takes n frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    this.spool.append(l, r, n);
    this.#frames += n;
    takeSides(this.#tops, l, r, n);
  }

  /** For each channel the levels from which on samples above and below zero are clipped; none are where it is infinite. */
  #findLevels(): number[][] {
    const channels = Array.from({ length: this.channels }, (_, c) => [2 * c, 2 * c + 1]);
    if (this.level > 0) return channels.map((sides) => sides.map(() => this.level));
    const tops = this.#tops.map((side) => side.tops());
    if (!areClipped(tops.flat(), this.#frames)) return [];
    return channels.map((sides) =>
      sides.map((side) => (tops[side].length >= LEAST_TOPS ? this.#tops[side].level : Infinity))
    );
  }

  /** Works on a piece of the sound; returns the share that is done. */
  work(): number {
    this.#levels ??= this.#findLevels();
    if (this.#levels.length === 0 || this.#at >= this.#frames) return 1;
    this.#piece(this.#levels);
    this.#at += HOPS * this.#hop;
    return Math.min(1, this.#at / this.#frames);
  }

  #piece(levels: readonly (readonly number[])[]): void {
    const [n, hop] = [this.#size, this.#hop];
    const lead = (OVERLAP - 1) * hop;
    const { left, right, frames } = this.#block;
    this.spool.read(this.#at - lead, frames, left.ptr, right.ptr);
    const sides = [left.f32, right.f32].slice(0, this.channels);
    const jobs: Job[] = sides.flatMap((x, c) =>
      Array.from({ length: HOPS + OVERLAP - 1 }, (_, f) => ({ c, from: f * hop })).filter(({ from }) =>
        hasClipped(x, from, n, levels[c])
      )
    );
    for (const sum of this.#sums) sum.fill(0);
    for (let j = 0; j < jobs.length; j += 2) {
      const pair = jobs.slice(j, j + 2);
      const [first, second] = this.#pair;
      this.#fill(first, pair[0], sides, levels);
      this.#fill(second, pair[1], sides, levels);
      const restored = this.#declipper.restore(first, second);
      pair.forEach(({ c, from }, lane) => {
        const x = restored[lane];
        for (let i = 0; i < n; i++) this.#sums[c][from + i] += x[i] * this.#window[i];
      });
    }
    this.#settle(sides, levels, lead);
  }

  #fill(
    { given, bound }: ClippedFrame,
    job: Job | undefined,
    sides: readonly Float32Array[],
    levels: readonly (readonly number[])[]
  ): void {
    given.fill(0);
    bound.fill(0);
    if (!job) return;
    const x = sides[job.c];
    const [up, down] = levels[job.c];
    for (let i = 0; i < given.length; i++) {
      const v = x[job.from + i];
      given[i] = v * this.#window[i];
      bound[i] = v >= up ? 1 : -v >= down ? -1 : 0;
    }
  }

  /** Keeps what the clipped samples of the hops became, and measures the sound that comes of it. */
  #settle(sides: readonly Float32Array[], levels: readonly (readonly number[])[], lead: number): void {
    const count = Math.min(HOPS * this.#hop, this.#frames - this.#at);
    sides.forEach((x, c) => {
      const [up, down] = levels[c];
      for (let i = lead; i < lead + count; i++) {
        if (x[i] < up && -x[i] < down) continue;
        const step = stepFor(x[i], this.#sums[c][i]);
        this.#runs[c].add(this.#at + i - lead, step);
        x[i] *= factorOf(step);
      }
    });
    const { left, right } = this.#block;
    for (let done = 0; done < count; done += BLOCK) {
      const at = (lead + done) * 4;
      const m = Math.min(BLOCK, count - done);
      this.#meter.push(left.ptr + at, (this.channels === 1 ? left : right).ptr + at, m);
    }
  }

  /** What was found, once `work` is done; undefined when nothing is clipped. */
  finish(): Restored | undefined {
    const samples = this.#runs.reduce((sum, { count }) => sum + count, 0);
    if (samples === 0 || !this.#levels) return undefined;
    return {
      channels: this.#runs.map((runs) => runs.finish()),
      samples,
      levelDb: gainToDb(Math.min(...this.#levels.flat())),
      truePeakDbtp: this.#meter.result().truePeakDbtp
    };
  }

  release(): void {
    this.#declipper.release();
    this.#meter.release();
    this.#block.release();
    this.spool.release();
  }
}

function hasClipped(x: Float32Array, from: number, n: number, [up, down]: readonly number[]): boolean {
  for (let i = from; i < from + n; i++) if (x[i] >= up || -x[i] >= down) return true;
  return false;
}

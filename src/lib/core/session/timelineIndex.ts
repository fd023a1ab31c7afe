// Which clips of a track lie in a stretch of time, without looking at the others.
//
//   level 2   |                 bin                 |      a clip lies in the smallest bin that holds all of it;
//   level 1   |  bin  |  bin  |  bin  |  bin  | ... |      a question looks at the bins that its stretch touches,
//   level 0   | | | | | | | | | | | | | | | | | | | |      at every level
//
// The scheme is that of genome browsers: Kent et al., "The Human Genome Browser at UCSC", Genome Research 12 (2002), "binning".
import type { Clip } from "./schema";

/** Frames of the smallest bins, as a power of two, and how many times larger, as a power of two, those of each level are. */
const SMALLEST_BITS = 16;
const GROWTH_BITS = 3;
const LEVELS = 9;
const BINS_A_LEVEL = 2 ** 32;

/** Clips by when they begin; equal ones by id, so that everyone adds them up alike. */
function byStart(a: Clip, b: Clip): number {
  return a.start - b.start || (a.id < b.id ? -1 : 1);
}

function sizeOf(level: number): number {
  return 2 ** (SMALLEST_BITS + GROWTH_BITS * level);
}

function binOf({ start, length }: Clip): number {
  for (let level = 0; level < LEVELS; level++) {
    const size = sizeOf(level);
    const bin = Math.floor(start / size);
    if (Math.floor((start + length - 1) / size) === bin || level === LEVELS - 1)
      return level * BINS_A_LEVEL + bin;
  }
  return 0;
}

/** Place of the first number that is not below a value. */
function placeOf(sorted: readonly number[], value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] ?? Infinity) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** One track's clips. */
class Lane {
  readonly #bins = new Map<number, Clip[]>();
  /** Where clips end, ascending. */
  readonly #ends: number[] = [];

  get size(): number {
    return this.#ends.length;
  }

  get end(): number {
    return this.#ends[this.#ends.length - 1] ?? 0;
  }

  add(clip: Clip): void {
    const key = binOf(clip);
    const bin = this.#bins.get(key);
    if (bin) bin.push(clip);
    else this.#bins.set(key, [clip]);
    const end = clip.start + clip.length;
    // Building goes from the first to the last mostly: then there is nothing to move.
    this.#ends.splice(placeOf(this.#ends, end), 0, end);
  }

  remove(clip: Clip): void {
    const key = binOf(clip);
    const bin = this.#bins.get(key) ?? [];
    const at = bin.findIndex((c) => c.id === clip.id);
    if (at < 0) return;
    if (bin.length === 1) this.#bins.delete(key);
    else bin.splice(at, 1);
    this.#ends.splice(placeOf(this.#ends, clip.start + clip.length), 1);
  }

  overlapping(from: number, to: number): Clip[] {
    const out: Clip[] = [];
    const take = (bin: readonly Clip[] | undefined) => {
      for (const clip of bin ?? []) if (clip.start < to && clip.start + clip.length > from) out.push(clip);
    };
    if ((to - from) / sizeOf(0) > this.#bins.size) for (const bin of this.#bins.values()) take(bin);
    else
      for (let level = 0; level < LEVELS; level++) {
        const last = Math.floor((to - 1) / sizeOf(level));
        for (let bin = Math.max(0, Math.floor(from / sizeOf(level))); bin <= last; bin++)
          take(this.#bins.get(level * BINS_A_LEVEL + bin));
      }
    return out.sort(byStart);
  }
}

/** The clips of all tracks by time. It is kept up by being told what changes. */
export class TimelineIndex {
  readonly #lanes = new Map<string, Lane>();

  constructor(clips: Iterable<Clip> = []) {
    for (const clip of [...clips].sort((a, b) => a.start + a.length - b.start - b.length))
      this.change(null, clip);
  }

  /** A clip as it was becomes what it is; null: it was not there, or is gone. */
  change(before: Clip | null, after: Clip | null): void {
    if (before) {
      const lane = this.#lanes.get(before.track);
      lane?.remove(before);
      if (lane?.size === 0) this.#lanes.delete(before.track);
    }
    if (!after) return;
    let lane = this.#lanes.get(after.track);
    if (!lane) this.#lanes.set(after.track, (lane = new Lane()));
    lane.add(after);
  }

  /** Clips of a track that touch [from, to), by when they begin. */
  overlapping(track: string, from: number, to: number): readonly Clip[] {
    return to > from ? (this.#lanes.get(track)?.overlapping(from, to) ?? []) : [];
  }

  /** Where the last clip of a track ends; 0 without any. */
  end(track: string): number {
    return this.#lanes.get(track)?.end ?? 0;
  }
}

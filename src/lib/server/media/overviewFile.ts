// Files of waveform overviews: all levels one after the other, the finest first.
import { closeSync, existsSync, fsyncSync, openSync, readSync, writeSync } from "node:fs";
import {
  BIN_BYTES,
  coarser,
  OVERVIEW_BINS,
  OVERVIEW_STEP,
  overviewBytes,
  overviewValue
} from "$lib/core/audio/overview";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import { BLOCK_FRAMES } from "./eachBlock";

/** Bins of a level that are written at once. */
const ROOM = BLOCK_FRAMES / OVERVIEW_BINS[0];

/** Where a level begins in the file, in bytes. */
function placeOf(level: number, frames: number): number {
  let start = 0;
  for (let l = 0; l < level; l++) start += overviewBytes(l, frames);
  return start;
}

/** One level while it is being written: its bins are kept until they fill the room, then written and handed to the next. */
class Level {
  readonly bins = new Int16Array(ROOM * 2);
  count = 0;
  readonly #above = new Int16Array((ROOM / OVERVIEW_STEP) * 2);

  constructor(
    private readonly fd: number,
    private at: number,
    private readonly next: Level | undefined
  ) {}

  take(bins: Int16Array, count: number): void {
    this.bins.set(bins.subarray(0, count * 2), this.count * 2);
    this.count += count;
    if (this.count === ROOM) this.flush();
  }

  flush(): void {
    if (this.count === 0) return;
    this.at += writeSync(this.fd, this.bins, 0, this.count * BIN_BYTES, this.at);
    this.next?.take(this.#above, coarser(this.bins, this.count, this.#above));
    this.count = 0;
  }
}

/** Writes an overview while its recording streams by. */
export class OverviewBuilder {
  readonly #fd: number;
  readonly #levels: Level[] = [];
  readonly #out = new KernelBuffer(ROOM * 8);
  readonly #fine = new Int16Array(ROOM * 2);

  /** @param file a new file */
  constructor(file: string, frames: number) {
    this.#fd = openSync(file, "wx");
    for (let level = OVERVIEW_BINS.length - 1; level >= 0; level--)
      this.#levels.unshift(new Level(this.#fd, placeOf(level, frames), this.#levels[0]));
  }

  /** Takes the next frames, planar: BLOCK_FRAMES but for the last call. */
  push(planar: number, stride: number, channels: number, frames: number): void {
    const bins = Math.ceil(frames / OVERVIEW_BINS[0]);
    const fine = this.#fine;
    for (let c = 0; c < channels; c++) {
      kernels.overview(planar + c * stride, frames, OVERVIEW_BINS[0], this.#out.ptr);
      const peaks = this.#out.f32;
      for (let o = 0; o < 2 * bins; o += 2) {
        const low = overviewValue(peaks[o]);
        const high = overviewValue(peaks[o + 1]);
        fine[o] = c === 0 ? low : Math.min(fine[o], low);
        fine[o + 1] = c === 0 ? high : Math.max(fine[o + 1], high);
      }
    }
    this.#levels[0]?.take(fine, bins);
  }

  /** Writes what is left and syncs the file. */
  finish(): void {
    for (const level of this.#levels) level.flush();
    fsyncSync(this.#fd);
  }

  close(): void {
    closeSync(this.#fd);
    this.#out.release();
  }
}

/** Bytes of a level from bin `from` on, `bins` bins. Undefined when there is no overview yet, or one that was cut short. */
export function readOverview(
  file: string,
  frames: number,
  level: number,
  from: number,
  bins: number
): Uint8Array | undefined {
  if (!existsSync(file)) return undefined;
  const total = overviewBytes(level, frames) / BIN_BYTES;
  const n = Math.max(0, Math.min(bins, total - from)) * BIN_BYTES;
  const bytes = new Uint8Array(n);
  const fd = openSync(file, "r");
  try {
    const got = readSync(fd, bytes, 0, n, placeOf(level, frames) + from * BIN_BYTES);
    return got === n ? bytes : undefined;
  } finally {
    closeSync(fd);
  }
}

// Files of waveform overviews: all levels one after the other, the finest first.
import { closeSync, existsSync, fsyncSync, openSync, readSync, writeSync } from "node:fs";
import { BIN_BYTES, coarser, OVERVIEW_BINS, OVERVIEW_STEP, overviewBytes } from "$lib/core/audio/overview";
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

/** One level while it is being made: its bins are kept until they fill the room, then put away and handed to the next. */
class Level {
  readonly bins = new Int16Array(ROOM * 2);
  count = 0;
  readonly #above = new Int16Array((ROOM / OVERVIEW_STEP) * 2);

  constructor(
    private readonly put: (bins: Int16Array) => void,
    private readonly next: Level | undefined
  ) {}

  take(bins: Int16Array, count: number): void {
    this.bins.set(bins.subarray(0, count * 2), this.count * 2);
    this.count += count;
    if (this.count === ROOM) this.flush();
  }

  flush(): void {
    if (this.count === 0) return;
    this.put(this.bins.subarray(0, this.count * 2));
    this.next?.take(this.#above, coarser(this.bins, this.count, this.#above));
    this.count = 0;
  }
}

/** Writes an overview while its recording streams by, however long that becomes: the finest level at once, the others, a third of it, at the end. */
export class OverviewBuilder {
  readonly #fd: number;
  readonly #levels: Level[] = [];
  readonly #kept: Int16Array[][] = OVERVIEW_BINS.map(() => []);
  #at = 0;
  readonly #fine = new KernelBuffer(ROOM * BIN_BYTES);

  /** @param file a new file */
  constructor(file: string) {
    this.#fd = openSync(file, "wx");
    for (let level = OVERVIEW_BINS.length - 1; level >= 0; level--) {
      const put = level === 0 ? this.#write : (bins: Int16Array) => this.#kept[level].push(bins.slice());
      this.#levels.unshift(new Level(put, this.#levels[0]));
    }
  }

  readonly #write = (bins: Int16Array) => {
    for (let done = 0; done < bins.byteLength;) {
      const n = writeSync(this.#fd, bins, done, bins.byteLength - done, this.#at);
      this.#at += n;
      done += n;
    }
  };

  /** Takes the next frames, planar: BLOCK_FRAMES but for the last call. */
  push(planar: number, stride: number, channels: number, frames: number): void {
    const bins = Math.ceil(frames / OVERVIEW_BINS[0]);
    kernels.overview(planar, stride, channels, frames, OVERVIEW_BINS[0], this.#fine.ptr);
    this.#levels[0]?.take(this.#fine.i16, bins);
  }

  /** Writes what is left and syncs the file. */
  finish(): void {
    for (const level of this.#levels) level.flush();
    for (const bins of this.#kept.flat()) this.#write(bins);
    fsyncSync(this.#fd);
  }

  close(): void {
    closeSync(this.#fd);
    this.#fine.release();
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

import { closeSync, existsSync, fsyncSync, openSync, readSync, writeSync } from "node:fs";
import { coarser, OVERVIEW_BINS, overviewByte, overviewBytes } from "$lib/core/audio/overview";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";

/** Collects the finest level while a recording streams by, then writes all levels one after the other. */
export class OverviewBuilder {
  readonly #bytes: Int8Array;
  readonly #out = new KernelBuffer(((1 << 18) / OVERVIEW_BINS[0]) * 8);
  #at = 0;

  constructor(frames: number) {
    this.#bytes = new Int8Array(overviewBytes(0, frames)).fill(0);
  }

  /** Takes the next frames, planar; `frames` is a multiple of 256 but for the last call, at most 2^18. */
  push(planar: number, stride: number, channels: number, frames: number): void {
    const bins = Math.ceil(frames / OVERVIEW_BINS[0]);
    for (let c = 0; c < channels; c++) {
      kernels.overview(planar + c * stride, frames, OVERVIEW_BINS[0], this.#out.ptr);
      const peaks = this.#out.f32;
      for (let b = 0; b < bins && this.#at + 2 * b < this.#bytes.length; b++) {
        const o = this.#at + 2 * b;
        const low = overviewByte(peaks[2 * b]);
        const high = overviewByte(peaks[2 * b + 1]);
        this.#bytes[o] = c === 0 ? low : Math.min(this.#bytes[o], low);
        this.#bytes[o + 1] = c === 0 ? high : Math.max(this.#bytes[o + 1], high);
      }
    }
    this.#at += bins * 2;
  }

  /** Writes all levels to a new file and syncs it. */
  finish(file: string): void {
    const middle = coarser(this.#bytes);
    const fd = openSync(file, "wx");
    try {
      for (const level of [this.#bytes, middle, coarser(middle)]) writeSync(fd, level);
      fsyncSync(fd);
    } finally {
      closeSync(fd);
      this.#out.release();
    }
  }
}

/** Bytes of a level from bin `from` on, `bins` bins (min and max each). Undefined when there is no overview yet. */
export function readOverview(
  file: string,
  frames: number,
  level: number,
  from: number,
  bins: number
): Uint8Array | undefined {
  if (!existsSync(file)) return undefined;
  let start = 0;
  for (let l = 0; l < level; l++) start += overviewBytes(l, frames);
  const total = overviewBytes(level, frames) / 2;
  const n = Math.max(0, Math.min(bins, total - from)) * 2;
  const bytes = new Uint8Array(n);
  const fd = openSync(file, "r");
  try {
    const got = readSync(fd, bytes, 0, n, start + from * 2);
    return got === n ? bytes : undefined;
  } finally {
    closeSync(fd);
  }
}

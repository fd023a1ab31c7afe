// Waveform overviews: least and largest sample of bins of 256, 2048 and 16384 frames, all channels together, as bytes of ±127.

/** Frames of a bin at each level. Each level is eight bins of the one before. */
export const OVERVIEW_BINS = [256, 2048, 16384] as const;
export const OVERVIEW_STEP = 8;

/** Bytes of one level for a recording of this length: min and max a bin. */
export function overviewBytes(level: number, frames: number): number {
  return Math.ceil(frames / OVERVIEW_BINS[level]) * 2;
}

/** A sample value as a signed byte of an overview; rounded outwards so that nothing audible looks like silence. */
export function overviewByte(value: number): number {
  const scaled = Math.max(-127, Math.min(127, value * 127));
  return scaled < 0 ? Math.floor(scaled) : Math.ceil(scaled);
}

/** Bins of the next coarser level. */
export function coarser(fine: Int8Array): Int8Array {
  const bins = Math.ceil(fine.length / 2 / OVERVIEW_STEP);
  const out = new Int8Array(bins * 2);
  for (let b = 0; b < bins; b++) {
    let low = 127;
    let high = -127;
    const end = Math.min(fine.length / 2, (b + 1) * OVERVIEW_STEP);
    for (let i = b * OVERVIEW_STEP; i < end; i++) {
      low = Math.min(low, fine[2 * i]);
      high = Math.max(high, fine[2 * i + 1]);
    }
    out[2 * b] = low;
    out[2 * b + 1] = high;
  }
  return out;
}

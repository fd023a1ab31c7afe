// Waveform overviews: least and largest sample of bins of 16, 64, 256 … 262144 frames, all channels together, as 16-bit integers of
// ±32767. Bins grow by fours, so that a column of pixels never needs more than five of them; 16 bits, so that sound at -80 dBFS still has a
// shape when it is drawn taller.

/** Frames of a bin at each level. Each level is four bins of the one before. */
export const OVERVIEW_BINS = [16, 64, 256, 1024, 4096, 16384, 65536, 262144] as const;
export const OVERVIEW_STEP = 4;
export const OVERVIEW_SCALE = 32767;
/** Bytes of a bin: its least and its largest value. */
export const BIN_BYTES = 4;

/** Bytes of one level for a recording of this length. */
export function overviewBytes(level: number, frames: number): number {
  return Math.ceil(frames / OVERVIEW_BINS[level]) * BIN_BYTES;
}

/** A sample value as an integer of an overview; rounded outwards so that nothing audible looks like silence. */
export function overviewValue(value: number): number {
  const scaled = Math.max(-OVERVIEW_SCALE, Math.min(OVERVIEW_SCALE, value * OVERVIEW_SCALE));
  return scaled < 0 ? Math.floor(scaled) : Math.ceil(scaled);
}

/** The level whose bins are the largest that fit into a stretch of this many frames; -1: the samples themselves. */
export function overviewLevel(frames: number): number {
  let level = -1;
  while (level + 1 < OVERVIEW_BINS.length && OVERVIEW_BINS[level + 1] <= frames) level++;
  return level;
}

/**
 * Least and largest of every four bins, of the `bins` first of `fine`, into `out`; the last takes what is left.
 * @returns how many bins that makes
 */
export function coarser(fine: Int16Array, bins: number, out: Int16Array): number {
  const count = Math.ceil(bins / OVERVIEW_STEP);
  for (let b = 0; b < count; b++) {
    let low = OVERVIEW_SCALE;
    let high = -OVERVIEW_SCALE;
    const end = Math.min(bins, (b + 1) * OVERVIEW_STEP);
    for (let i = b * OVERVIEW_STEP; i < end; i++) {
      const least = fine[2 * i];
      const most = fine[2 * i + 1];
      if (least < low) low = least;
      if (most > high) high = most;
    }
    out[2 * b] = low;
    out[2 * b + 1] = high;
  }
  return count;
}

// Gains of a spectral noise reduction: power over noise, averaged over a block of neighbouring frames and bins, and what is left of it
// after subtraction. G. Yu, S. Mallat, E. Bacry, "Audio denoising by time-frequency block thresholding", IEEE Trans. Signal Processing
// 56 (2008): averaging before the decision is what keeps single bins from ringing.

/** out[k] = mean of power / noise over bins k - 2 … k + 2, as far as there are any. work: bins f32. */
export function noiseRatio(power: usize, noise: usize, work: usize, out: usize, bins: i32): void {
  for (let k = 0; k < bins; k++) {
    const o = <usize>k << 2;
    store<f32>(work + o, min<f32>(1e9, load<f32>(power + o) / load<f32>(noise + o)));
  }
  for (let k = 0; k < bins; k++) {
    if (k >= 2 && k + 2 < bins) {
      const p = work + (<usize>k << 2);
      const sum = load<f32>(p - 8) + load<f32>(p - 4) + load<f32>(p) + load<f32>(p, 4) + load<f32>(p, 8);
      store<f32>(out + (<usize>k << 2), sum * 0.2);
      continue;
    }
    const from = max(0, k - 2), to = min(bins - 1, k + 2);
    let sum: f32 = 0;
    for (let j = from; j <= to; j++) sum += load<f32>(work + (<usize>j << 2));
    store<f32>(out + (<usize>k << 2), sum / <f32>(to - from + 1));
  }
}

/**
 * Gains from `rows` ratios of neighbouring frames. ring: `count` rows of `stride` bytes; first: index of the oldest row taken.
 * gains[k] = max(floor, 1 - over / mean).  bins: a multiple of 4.
 */
export function subtractionGains(ring: usize, stride: usize, count: i32, first: i32, rows: i32, gains: usize, bins: i32, over: f32, floor: f32): void {
  const scale = f32x4.splat(over * <f32>rows), one = f32x4.splat(1), least = f32x4.splat(floor), tiny = f32x4.splat(1e-20);
  for (let o: usize = 0; o < <usize>bins << 2; o += 16) {
    let sum = f32x4.splat(0);
    let row = first;
    for (let i = 0; i < rows; i++) {
      sum = f32x4.add(sum, v128.load(ring + <usize>row * stride + o));
      row++;
      if (row == count) row = 0;
    }
    v128.store(gains + o, f32x4.max(least, f32x4.sub(one, f32x4.div(scale, f32x4.max(tiny, sum)))));
  }
}

// Gains of a spectral noise reduction: power over noise, averaged over a block of neighbouring frames and bins, and what is left of it
// after subtraction. G. Yu, S. Mallat, E. Bacry, "Audio denoising by time-frequency block thresholding", IEEE Trans. Signal Processing
// 56 (2008): averaging before the decision is what keeps single bins from ringing.

/** out[k] = mean of power × inverse over bins k - 2 … k + 2, as far as there are any. work: bins f32, rounded up to a multiple of 4. */
export function noiseRatio(power: usize, inverse: usize, work: usize, out: usize, bins: i32): void {
  const most = f32x4.splat(1e9), fifth = f32x4.splat(0.2);
  for (let o: usize = 0; o < <usize>bins << 2; o += 16)
    v128.store(work + o, f32x4.pmin(most, f32x4.mul(v128.load(power + o), v128.load(inverse + o))));
  let k: usize = 4;
  for (; k + 6 <= <usize>bins; k += 4) {
    const p = work + (k << 2);
    const near = f32x4.add(v128.load(p - 4), v128.load(p, 4)), far = f32x4.add(v128.load(p - 8), v128.load(p, 8));
    v128.store(out + (k << 2), f32x4.mul(f32x4.add(f32x4.add(near, far), v128.load(p)), fifth));
  }
  for (let i = 0; i < bins; i++) {
    if (i == 4) i = <i32>k;
    const from = max(0, i - 2), to = min(bins - 1, i + 2);
    let sum: f32 = 0;
    for (let j = from; j <= to; j++) sum += load<f32>(work + (<usize>j << 2));
    store<f32>(out + (<usize>i << 2), sum / <f32>(to - from + 1));
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

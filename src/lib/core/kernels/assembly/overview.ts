/** Least and largest sample of each bin of `size` samples: out[2k] = min, out[2k + 1] = max (f32). n is a multiple of size or the tail. */
export function overview(p: usize, n: usize, size: usize, out: usize): void {
  let o = out;
  for (let at: usize = 0; at < n; at += size) {
    const m = min(size, n - at);
    const from = p + (at << 2);
    let lo = f32x4.splat(load<f32>(from)), hi = lo;
    let i: usize = 0;
    for (; i + 4 <= m; i += 4) {
      const x = v128.load(from + (i << 2));
      lo = f32x4.pmin(lo, x);
      hi = f32x4.pmax(hi, x);
    }
    let low = min(min(f32x4.extract_lane(lo, 0), f32x4.extract_lane(lo, 1)), min(f32x4.extract_lane(lo, 2), f32x4.extract_lane(lo, 3)));
    let high = max(max(f32x4.extract_lane(hi, 0), f32x4.extract_lane(hi, 1)), max(f32x4.extract_lane(hi, 2), f32x4.extract_lane(hi, 3)));
    for (; i < m; i++) {
      low = min(low, load<f32>(from + (i << 2)));
      high = max(high, load<f32>(from + (i << 2)));
    }
    store<f32>(o, low);
    store<f32>(o, high, 4);
    o += 8;
  }
}

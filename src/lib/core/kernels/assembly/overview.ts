/** A sample as a 16-bit integer of ±32767, rounded outwards. */
function outwards(value: f32): i16 {
  const scaled = max(-32767.0, min(32767.0, <f64>value * 32767.0));
  return <i16>(scaled < 0.0 ? Math.floor(scaled) : Math.ceil(scaled));
}

/**
 * Least and largest sample of each bin of `size` frames, all channels together: out[2k], out[2k + 1] (i16, ±32767, rounded outwards).
 * Channel c at p + c × stride bytes. n is a multiple of size or the tail.
 */
export function overview(p: usize, stride: usize, channels: usize, n: usize, size: usize, out: usize): void {
  let o = out;
  for (let at: usize = 0; at < n; at += size) {
    const m = min(size, n - at);
    let from = p + (at << 2);
    let low = load<f32>(from), high = low;
    for (let c: usize = 0; c < channels; c++) {
      let lo = f32x4.splat(low), hi = f32x4.splat(high);
      let i: usize = 0;
      for (; i + 4 <= m; i += 4) {
        const x = v128.load(from + (i << 2));
        lo = f32x4.pmin(lo, x);
        hi = f32x4.pmax(hi, x);
      }
      low = min(min(f32x4.extract_lane(lo, 0), f32x4.extract_lane(lo, 1)), min(f32x4.extract_lane(lo, 2), f32x4.extract_lane(lo, 3)));
      high = max(max(f32x4.extract_lane(hi, 0), f32x4.extract_lane(hi, 1)), max(f32x4.extract_lane(hi, 2), f32x4.extract_lane(hi, 3)));
      for (; i < m; i++) {
        low = min(low, load<f32>(from + (i << 2)));
        high = max(high, load<f32>(from + (i << 2)));
      }
      from += stride;
    }
    store<i16>(o, outwards(low));
    store<i16>(o, outwards(high), 2);
    o += 4;
  }
}

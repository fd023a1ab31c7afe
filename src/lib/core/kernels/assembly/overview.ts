/** A sample as a 16-bit integer of ±32767, rounded outwards. */
function outwards(value: f32): i16 {
  const scaled = max(-32767.0, min(32767.0, <f64>value * 32767.0));
  return <i16>(scaled < 0.0 ? Math.floor(scaled) : Math.ceil(scaled));
}

// @ts-ignore: decorator
@inline function outwards2(values: v128): v128 {
  const full = f64x2.splat(32767.0);
  const scaled = f64x2.pmax(f64x2.neg(full), f64x2.pmin(full, f64x2.mul(f64x2.promote_low_f32x4(values), full)));
  const down = f64x2.floor(scaled), up = f64x2.ceil(scaled);
  return i32x4.trunc_sat_f64x2_s_zero(v128.bitselect(down, up, f64x2.lt(scaled, f64x2.splat(0.0))));
}

/** The same of four samples, as i32. */
// @ts-ignore: decorator
@inline function outwards4(values: v128): v128 {
  const upper = outwards2(i64x2.shuffle(values, values, 1, 1));
  return i64x2.shuffle(outwards2(values), upper, 0, 2);
}

// @ts-ignore: decorator
@inline function least4(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmin(i32x4.shuffle(a, b, 0, 4, 1, 5), i32x4.shuffle(a, b, 2, 6, 3, 7));
  const cd = f32x4.pmin(i32x4.shuffle(c, d, 0, 4, 1, 5), i32x4.shuffle(c, d, 2, 6, 3, 7));
  return f32x4.pmin(i32x4.shuffle(ab, cd, 0, 1, 4, 5), i32x4.shuffle(ab, cd, 2, 3, 6, 7));
}

// @ts-ignore: decorator
@inline function largest4(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmax(i32x4.shuffle(a, b, 0, 4, 1, 5), i32x4.shuffle(a, b, 2, 6, 3, 7));
  const cd = f32x4.pmax(i32x4.shuffle(c, d, 0, 4, 1, 5), i32x4.shuffle(c, d, 2, 6, 3, 7));
  return f32x4.pmax(i32x4.shuffle(ab, cd, 0, 1, 4, 5), i32x4.shuffle(ab, cd, 2, 3, 6, 7));
}

// @ts-ignore: decorator
@inline function least16(p: usize): v128 {
  return f32x4.pmin(f32x4.pmin(v128.load(p), v128.load(p, 16)), f32x4.pmin(v128.load(p, 32), v128.load(p, 48)));
}

// @ts-ignore: decorator
@inline function largest16(p: usize): v128 {
  return f32x4.pmax(f32x4.pmax(v128.load(p), v128.load(p, 16)), f32x4.pmax(v128.load(p, 32), v128.load(p, 48)));
}

/** Four bins of 16 frames at a time. Returns the frames done. */
function fours(p: usize, stride: usize, channels: usize, n: usize, out: usize): usize {
  let at: usize = 0;
  for (; at + 64 <= n; at += 64) {
    let from = p + (at << 2);
    let low = least4(least16(from), least16(from + 64), least16(from + 128), least16(from + 192));
    let high = largest4(largest16(from), largest16(from + 64), largest16(from + 128), largest16(from + 192));
    for (let c: usize = 1; c < channels; c++) {
      from += stride;
      low = f32x4.pmin(low, least4(least16(from), least16(from + 64), least16(from + 128), least16(from + 192)));
      high = f32x4.pmax(high, largest4(largest16(from), largest16(from + 64), largest16(from + 128), largest16(from + 192)));
    }
    const bins = v128.or(v128.and(outwards4(low), i32x4.splat(0xffff)), i32x4.shl(outwards4(high), 16));
    v128.store(out + (at >> 2), bins);
  }
  return at;
}

/**
 * Least and largest sample of each bin of `size` frames, all channels together: out[2k], out[2k + 1] (i16, ±32767, rounded outwards).
 * Channel c at p + c × stride bytes. n is a multiple of size or the tail.
 */
export function overview(p: usize, stride: usize, channels: usize, n: usize, size: usize, out: usize): void {
  const done = size == 16 ? fours(p, stride, channels, n, out) : 0;
  let o = out + (done >> 2);
  for (let at = done; at < n; at += size) {
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

// Levels of a block in one pass.

// @ts-ignore: decorator
@inline function high(x: v128): v128 {
  return f64x2.promote_low_f32x4(i64x2.shuffle(x, x, 1, 1));
}

/** Adds the sum to sums[0] and the sum of squares to sums[1] (f64); returns the largest magnitude. */
export function levels(p: usize, n: usize, sums: usize): f32 {
  let s = f64x2.splat(0), q = f64x2.splat(0), t = f64x2.splat(0), u = f64x2.splat(0);
  let top = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) {
    const x = v128.load(p + (i << 2));
    top = f32x4.pmax(top, f32x4.abs(x));
    const a = f64x2.promote_low_f32x4(x), b = high(x);
    s = f64x2.add(s, a);
    t = f64x2.add(t, b);
    q = f64x2.add(q, f64x2.mul(a, a));
    u = f64x2.add(u, f64x2.mul(b, b));
  }
  s = f64x2.add(s, t);
  q = f64x2.add(q, u);
  let sum = f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1), squares = f64x2.extract_lane(q, 0) + f64x2.extract_lane(q, 1);
  let peak = max(max(f32x4.extract_lane(top, 0), f32x4.extract_lane(top, 1)), max(f32x4.extract_lane(top, 2), f32x4.extract_lane(top, 3)));
  for (; i < n; i++) {
    const x = load<f32>(p + (i << 2));
    peak = max(peak, abs(x));
    sum += <f64>x;
    squares += <f64>x * <f64>x;
  }
  store<f64>(sums, load<f64>(sums) + sum);
  store<f64>(sums, load<f64>(sums, 8) + squares, 8);
  return peak;
}

/** Index of the first sample that is not a finite number, or -1. */
export function firstNotFinite(p: usize, n: usize): i32 {
  for (let i: usize = 0; i < n; i++) {
    const bits = load<u32>(p + (i << 2));
    if ((bits & 0x7f800000) == 0x7f800000) return <i32>i;
  }
  return -1;
}

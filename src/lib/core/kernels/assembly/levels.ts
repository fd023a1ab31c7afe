// Sums over a block, f64.

/** Sum of squares. */
export function sumSquares(p: usize, n: usize): f64 {
  let a = f64x2.splat(0), b = f64x2.splat(0);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) {
    const x = v128.load(p + (i << 2));
    const lo = f64x2.promote_low_f32x4(x);
    const hi = f64x2.promote_low_f32x4(i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
    a = f64x2.add(a, f64x2.mul(lo, lo));
    b = f64x2.add(b, f64x2.mul(hi, hi));
  }
  a = f64x2.add(a, b);
  let s = f64x2.extract_lane(a, 0) + f64x2.extract_lane(a, 1);
  for (; i < n; i++) {
    const x = <f64>load<f32>(p + (i << 2));
    s += x * x;
  }
  return s;
}

/** Index of the first sample that is not a finite number, or -1. */
export function firstNotFinite(p: usize, n: usize): i32 {
  for (let i: usize = 0; i < n; i++) {
    const bits = load<u32>(p + (i << 2));
    if ((bits & 0x7f800000) == 0x7f800000) return <i32>i;
  }
  return -1;
}

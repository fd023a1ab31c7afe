// Levels of a block in one pass.
import { widened } from "./lanes";

const STRETCH: usize = 64;

/**
 * Adds the sum to sums[0] and the sum of squares to sums[1] (f64); returns the largest magnitude. Sixteen samples a lane are added in f32
 * before they are widened: an error of less than 1e-6.
 */
export function levels(p: usize, n: usize, sums: usize): f32 {
  let s = f64x2.splat(0), q = f64x2.splat(0);
  let top = f32x4.splat(0);
  let i: usize = 0;
  for (; i + STRETCH <= n; i += STRETCH) {
    let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
    for (let o = i << 2; o < (i + STRETCH) << 2; o += 32) {
      const x = v128.load(p + o), y = v128.load(p + o, 16);
      top = f32x4.pmax(top, f32x4.pmax(f32x4.abs(x), f32x4.abs(y)));
      a = f32x4.add(a, x);
      b = f32x4.add(b, y);
      c = f32x4.add(c, f32x4.mul(x, x));
      d = f32x4.add(d, f32x4.mul(y, y));
    }
    s = f64x2.add(s, widened(f32x4.add(a, b)));
    q = f64x2.add(q, widened(f32x4.add(c, d)));
  }
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
  const exponent = i32x4.splat(0x7f800000);
  let from: usize = 0;
  for (; from + 4 <= n; from += 4)
    if (v128.any_true(i32x4.eq(v128.and(v128.load(p + (from << 2)), exponent), exponent))) break;
  for (let i = from; i < n; i++) {
    const bits = load<u32>(p + (i << 2));
    if ((bits & 0x7f800000) == 0x7f800000) return <i32>i;
  }
  return -1;
}

// A sum of samples under weights: two sounds with the same one are the same.

import { widened } from "./lanes";

/** Adds Σ x·w of n samples to sums[0] and Σ x² to sums[1] (f64). Products are rounded to f32, sums of four are widened. */
export function weighted(p: usize, weights: usize, n: usize, sums: usize): void {
  let s = f64x2.splat(0), q = f64x2.splat(0);
  let i: usize = 0;
  for (; i + 16 <= n; i += 16) {
    const o = p + (i << 2), w = weights + (i << 2);
    const a = v128.load(o), b = v128.load(o, 16), c = v128.load(o, 32), d = v128.load(o, 48);
    const x = f32x4.add(f32x4.mul(a, v128.load(w)), f32x4.mul(b, v128.load(w, 16)));
    const y = f32x4.add(f32x4.mul(c, v128.load(w, 32)), f32x4.mul(d, v128.load(w, 48)));
    const e = f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f = f32x4.add(f32x4.mul(c, c), f32x4.mul(d, d));
    s = f64x2.add(s, widened(f32x4.add(x, y)));
    q = f64x2.add(q, widened(f32x4.add(e, f)));
  }
  let sum = f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1), squares = f64x2.extract_lane(q, 0) + f64x2.extract_lane(q, 1);
  for (; i < n; i++) {
    const x = load<f32>(p + (i << 2));
    sum += <f64>(x * load<f32>(weights + (i << 2)));
    squares += <f64>x * <f64>x;
  }
  store<f64>(sums, load<f64>(sums) + sum);
  store<f64>(sums, load<f64>(sums, 8) + squares, 8);
}

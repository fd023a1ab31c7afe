// Envelope of a limiter: at every sample the largest magnitude of the sound around it, between the samples too, as far as it passes
// a threshold. Interpolators: that of ITU-R BS.1770-5 annex 2, and an eightfold one for all that it misses.
//
// fine: TAPS × two f32x4: the coefficients of eight phases for x[n - k]; coarse: 12 × f32x4 as in truepeak.ts.
// line: TAPS - 1 samples of the past, then the block. Delay: TAPS / 2 samples.
export const TAPS: usize = 32;
const GROUP: usize = 8;
// Samples to both sides of where the phases lie that decide whether a peak can be near.
const NEAR: usize = 6;
// Sound between samples rarely passes the samples around it by much: 1.7 holds for square waves and for white noise (tests/core/dynamics.test.ts).
const BOUND: f32 = 1.7;
// The coarse interpolator misses less than this factor of what the fine one finds.
const MISSED: f32 = 1.35;

// @ts-ignore: decorator
@inline function across(m: v128): f32 {
  const a = f32x4.pmax(m, i32x4.shuffle(m, m, 2, 3, 0, 1));
  return max(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1));
}

// @ts-ignore: decorator
@inline function largest(p: usize, n: usize): f32 {
  let a = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) a = f32x4.pmax(a, f32x4.abs(v128.load(p + (i << 2))));
  let top = across(a);
  for (; i < n; i++) top = max(top, abs(load<f32>(p + (i << 2))));
  return top;
}

// @ts-ignore: decorator
@inline function fineAt(p: usize, fine: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
  for (let k: usize = 0; k < TAPS; k += 2) {
    const x = v128.load32_splat(p - (k << 2)), y = v128.load32_splat(p - (k << 2) - 4);
    const t = fine + (k << 5);
    a = f32x4.add(a, f32x4.mul(x, v128.load(t)));
    b = f32x4.add(b, f32x4.mul(x, v128.load(t, 16)));
    c = f32x4.add(c, f32x4.mul(y, v128.load(t, 32)));
    d = f32x4.add(d, f32x4.mul(y, v128.load(t, 48)));
  }
  return f32x4.pmax(f32x4.abs(f32x4.add(a, c)), f32x4.abs(f32x4.add(b, d)));
}

// @ts-ignore: decorator
@inline function coarseAt(p: usize, coarse: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0);
  for (let k: usize = 0; k < 12; k += 2) {
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - (k << 2)), v128.load(coarse + (k << 4))));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - (k << 2) - 4), v128.load(coarse + (k << 4), 16)));
  }
  return f32x4.abs(f32x4.add(a, b));
}

/**
 * One channel: out[i] = max(out[i], envelope). Where nothing around a sample can pass the threshold, out stays.
 * x: the block; n ≤ 512. line: TAPS - 1 + n f32.
 */
export function peakEnvelope(x: usize, n: usize, line: usize, fine: usize, coarse: usize, truePeak: i32, threshold: f32, out: usize): void {
  const past = (TAPS - 1) << 2;
  memory.copy(line + past, x, n << 2);
  const limit = truePeak ? threshold / BOUND : threshold;
  const close = threshold / MISSED;
  for (let i: usize = 0; i < n; i += GROUP) {
    const g = min(GROUP, n - i);
    const from = line + (i << 2);
    const centre = from + past - (TAPS >> 1 << 2);
    if (largest(centre - (NEAR << 2), g + 2 * NEAR + 1) <= limit) continue;
    for (let j: usize = 0; j < g; j++) {
      const p = from + past + (j << 2);
      const o = out + ((i + j) << 2);
      const own = abs(load<f32>(p - (TAPS >> 1 << 2)));
      if (!truePeak) {
        store<f32>(o, max(load<f32>(o), own));
        continue;
      }
      // The samples on both sides of where the phases lie.
      const here = load<f32>(p - (TAPS >> 1 << 2)), after = load<f32>(p - ((TAPS >> 1) - 1 << 2));
      let top = max(own, abs(after));
      // Where the sound only rises or only falls past both, nothing between them stands out.
      const before = abs(load<f32>(p - ((TAPS >> 1) + 1 << 2))), later = abs(load<f32>(p - ((TAPS >> 1) - 2 << 2)));
      const rises = before < own && own < abs(after) && abs(after) < later, falls = before > own && own > abs(after) && abs(after) > later;
      if ((rises || falls) && here * after > 0) {
        store<f32>(o, max(load<f32>(o), top));
        continue;
      }
      top = max(top, across(coarseAt(p - ((TAPS - 12) >> 1 << 2), coarse)));
      if (top > close) top = max(top, across(fineAt(p, fine)));
      store<f32>(o, max(load<f32>(o), top));
    }
  }
  memory.copy(line, line + (n << 2), past);
}

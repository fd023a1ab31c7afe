// Gains of dynamics in blocks: what does not wait for the sample before is done four at a time.

export const DB_PER_OCTAVE: f64 = 6.020599913279624;

/** log2 of four normal numbers > 0, error below 2e-7: exponent and the series of atanh. */
// @ts-ignore: decorator
@inline export function log2x4(x: v128): v128 {
  let e = i32x4.sub(i32x4.shr_u(x, 23), i32x4.splat(127));
  let m = v128.or(v128.and(x, i32x4.splat(0x007fffff)), i32x4.splat(0x3f800000));
  const large = f32x4.gt(m, f32x4.splat(1.4142135));
  m = v128.bitselect(f32x4.mul(m, f32x4.splat(0.5)), m, large);
  e = i32x4.sub(e, large);
  const z = f32x4.div(f32x4.sub(m, f32x4.splat(1)), f32x4.add(m, f32x4.splat(1)));
  const y = f32x4.mul(z, z);
  let s = f32x4.add(f32x4.splat(0.2), f32x4.mul(y, f32x4.splat(0.14285715)));
  s = f32x4.add(f32x4.splat(0.33333334), f32x4.mul(y, s));
  s = f32x4.add(f32x4.splat(1), f32x4.mul(y, s));
  return f32x4.add(f32x4.convert_i32x4_s(e), f32x4.mul(f32x4.mul(z, f32x4.splat(2.885390082)), s));
}

/** 2^x of four numbers from -126 to 127, error below 2e-7 of the value. */
// @ts-ignore: decorator
@inline export function exp2x4(x: v128): v128 {
  const c = f32x4.pmax(f32x4.splat(-126), f32x4.pmin(f32x4.splat(127), x));
  const w = f32x4.nearest(c);
  const f = f32x4.mul(f32x4.sub(c, w), f32x4.splat(0.6931471805599453));
  let s = f32x4.add(f32x4.splat(0.008333334), f32x4.mul(f, f32x4.splat(0.0013888889)));
  s = f32x4.add(f32x4.splat(0.041666668), f32x4.mul(f, s));
  s = f32x4.add(f32x4.splat(0.16666667), f32x4.mul(f, s));
  s = f32x4.add(f32x4.splat(0.5), f32x4.mul(f, s));
  s = f32x4.add(f32x4.splat(1), f32x4.mul(f, s));
  s = f32x4.add(f32x4.splat(1), f32x4.mul(f, s));
  return f32x4.mul(s, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(w), i32x4.splat(127)), 23));
}

/** out = max(|a|, |b|). Reads and writes up to three samples beyond n. */
export function largerMagnitude(a: usize, b: usize, n: usize, out: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16) v128.store(out + o, f32x4.pmax(f32x4.abs(v128.load(a + o)), f32x4.abs(v128.load(b + o))));
}

/** l = fromL × gains, r = fromR × gains. */
export function applyGains(l: usize, r: usize, fromL: usize, fromR: usize, gains: usize, n: usize): void {
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) {
    const o = i << 2, k = v128.load(gains + o);
    v128.store(l + o, f32x4.mul(v128.load(fromL + o), k));
    v128.store(r + o, f32x4.mul(v128.load(fromR + o), k));
  }
  for (; i < n; i++) {
    const o = i << 2, k = load<f32>(gains + o);
    store<f32>(l + o, load<f32>(fromL + o) * k);
    store<f32>(r + o, load<f32>(fromR + o) * k);
  }
}

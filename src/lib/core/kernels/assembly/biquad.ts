// Cascade of second-order sections, direct form I, f64, the two lanes are left and right. The a1 term is added last: only it waits
// for the sample before, which makes the chain of dependent operations half as long as in the transposed form.
// coefs: per section b0 b1 b2 a1 a2 (f64, a0 = 1). state: per section x1 x2 y1 y2 (each f64x2). scratch: n × f64x2.

const TINY: f64 = 1e-30;

// @ts-ignore: decorator
@inline export function load2(l: usize, r: usize, i: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load32_lane(l + (i << 2), v128.load32_lane(r + (i << 2), i32x4.splat(0), 1), 0));
}

// @ts-ignore: decorator
@inline export function flush(x: v128): v128 {
  return v128.bitselect(x, f64x2.splat(0), f64x2.gt(f64x2.abs(x), f64x2.splat(TINY)));
}

// @ts-ignore: decorator
@inline function step(x: v128, x1: v128, x2: v128, y1: v128, y2: v128, b0: v128, b1: v128, b2: v128, a1: v128, a2: v128): v128 {
  const feed = f64x2.add(f64x2.add(f64x2.mul(b0, x), f64x2.mul(b1, x1)), f64x2.sub(f64x2.mul(b2, x2), f64x2.mul(a2, y2)));
  return f64x2.sub(feed, f64x2.mul(a1, y1));
}

// @ts-ignore: decorator
@inline function coef(c: usize, k: usize): v128 {
  return v128.load64_splat(c + (k << 3));
}

function section1(buf: usize, n: usize, c: usize, s: usize): void {
  const b0 = coef(c, 0), b1 = coef(c, 1), b2 = coef(c, 2), a1 = coef(c, 3), a2 = coef(c, 4);
  let x1 = v128.load(s), x2 = v128.load(s, 16), y1 = v128.load(s, 32), y2 = v128.load(s, 48);
  for (let i: usize = 0; i < n; i++) {
    const p = buf + (i << 4);
    const x = v128.load(p);
    const y = step(x, x1, x2, y1, y2, b0, b1, b2, a1, a2);
    x2 = x1;
    x1 = x;
    y2 = y1;
    y1 = y;
    v128.store(p, y);
  }
  v128.store(s, x1);
  v128.store(s, x2, 16);
  v128.store(s, y1, 32);
  v128.store(s, y2, 48);
}

/** Two sections a pass: one load and store instead of two. */
function section2(buf: usize, n: usize, c: usize, s: usize): void {
  const b0 = coef(c, 0), b1 = coef(c, 1), b2 = coef(c, 2), a1 = coef(c, 3), a2 = coef(c, 4);
  const d0 = coef(c, 5), d1 = coef(c, 6), d2 = coef(c, 7), e1 = coef(c, 8), e2 = coef(c, 9);
  let x1 = v128.load(s), x2 = v128.load(s, 16), y1 = v128.load(s, 32), y2 = v128.load(s, 48), z1 = v128.load(s, 96), z2 = v128.load(s, 112);
  for (let i: usize = 0; i < n; i++) {
    const p = buf + (i << 4);
    const x = v128.load(p);
    const y = step(x, x1, x2, y1, y2, b0, b1, b2, a1, a2);
    const z = step(y, y1, y2, z1, z2, d0, d1, d2, e1, e2);
    x2 = x1;
    x1 = x;
    y2 = y1;
    y1 = y;
    z2 = z1;
    z1 = z;
    v128.store(p, z);
  }
  v128.store(s, x1);
  v128.store(s, x2, 16);
  v128.store(s, y1, 32);
  v128.store(s, y2, 48);
  v128.store(s, y1, 64);
  v128.store(s, y2, 80);
  v128.store(s, z1, 96);
  v128.store(s, z2, 112);
}

/** Sets states under 1e-30 to zero: denormal numbers are 40 times slower. */
export function flushStates(state: usize, sections: usize): void {
  for (let i: usize = 0; i < sections * 4; i++) v128.store(state + (i << 4), flush(v128.load(state + (i << 4))));
}

export function biquads(l: usize, r: usize, n: usize, coefs: usize, state: usize, sections: usize, scratch: usize): void {
  for (let i: usize = 0; i < n; i++) v128.store(scratch + (i << 4), load2(l, r, i));
  let k: usize = 0;
  for (; k + 2 <= sections; k += 2) section2(scratch, n, coefs + k * 40, state + k * 64);
  if (k < sections) section1(scratch, n, coefs + k * 40, state + k * 64);
  for (let i: usize = 0; i < n; i++) {
    const y = f32x4.demote_f64x2_zero(v128.load(scratch + (i << 4)));
    v128.store32_lane(l + (i << 2), y, 0);
    v128.store32_lane(r + (i << 2), y, 1);
  }
}

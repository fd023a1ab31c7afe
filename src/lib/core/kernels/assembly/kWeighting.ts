// K-weighting (ITU-R BS.1770-5 annex 1) of a pair and its energy: two second-order sections, direct form I, f64, the lanes are left and right.
// The first section is computed without its gain b0, whose square multiplies the energy; the second one's numerator 1, -2, 1 is a difference of
// differences. The a1 term is added last: only it waits for the sample before.
// coefs: two sections of b0 b1 b2 a1 a2. state: f64x2 x1 x2, y1 y2 and z1 z2 of what comes in and out of the first section and out of the second,
// f64x2 of the sum going on, i32 frames in it.
import { flush, load2 } from "./biquad";

// @ts-ignore: decorator
@inline function shelf(x: v128, x1: v128, x2: v128, y1: v128, y2: v128, b1: v128, b2: v128, a1: v128, a2: v128): v128 {
  const feed = f64x2.add(f64x2.add(x, f64x2.mul(b1, x1)), f64x2.sub(f64x2.mul(b2, x2), f64x2.mul(a2, y2)));
  return f64x2.sub(feed, f64x2.mul(a1, y1));
}

/** u, u1: differences of the first section's last two outputs and of the two before. */
// @ts-ignore: decorator
@inline function highPass(u: v128, u1: v128, z1: v128, z2: v128, a1: v128, a2: v128): v128 {
  return f64x2.sub(f64x2.sub(f64x2.sub(u, u1), f64x2.mul(a2, z2)), f64x2.mul(a1, z1));
}

// @ts-ignore: decorator
@inline function square(z: v128): v128 {
  return f64x2.mul(z, z);
}

/**
 * The sum of squares of every `step` frames; the signal is left untouched. out: f64 left, f64 right for each step that ends in this block.
 * Returns their number.
 */
export function kWeightedSteps(l: usize, r: usize, n: i32, coefs: usize, state: usize, stepFrames: i32, out: usize): i32 {
  const gain = load<f64>(coefs), energy = f64x2.splat(gain * gain);
  const b1 = f64x2.splat(load<f64>(coefs, 8) / gain), b2 = f64x2.splat(load<f64>(coefs, 16) / gain);
  const a1 = v128.load64_splat(coefs, 24), a2 = v128.load64_splat(coefs, 32), e1 = v128.load64_splat(coefs, 64), e2 = v128.load64_splat(coefs, 72);
  let x1 = v128.load(state), x2 = v128.load(state, 16), y1 = v128.load(state, 32), y2 = v128.load(state, 48), z1 = v128.load(state, 64), z2 = v128.load(state, 80);
  let sum = v128.load(state, 96), u1 = f64x2.sub(y1, y2);
  let inStep = load<i32>(state, 112);
  let made = 0;
  for (let done = 0; done < n;) {
    const end = done + min(n - done, stepFrames - inStep);
    inStep += end - done;
    let i = <usize>done;
    for (; i + 4 <= <usize>end; i += 4) {
      const left = v128.load(l + (i << 2)), right = v128.load(r + (i << 2));
      const early = i32x4.shuffle(left, right, 0, 4, 1, 5), late = i32x4.shuffle(left, right, 2, 6, 3, 7);
      const xa = f64x2.promote_low_f32x4(early), xb = f64x2.promote_low_f32x4(i64x2.shuffle(early, early, 1, 1));
      const xc = f64x2.promote_low_f32x4(late), xd = f64x2.promote_low_f32x4(i64x2.shuffle(late, late, 1, 1));
      const ya = shelf(xa, x1, x2, y1, y2, b1, b2, a1, a2), yb = shelf(xb, xa, x1, ya, y1, b1, b2, a1, a2);
      const yc = shelf(xc, xb, xa, yb, ya, b1, b2, a1, a2), yd = shelf(xd, xc, xb, yc, yb, b1, b2, a1, a2);
      const ua = f64x2.sub(ya, y1), ub = f64x2.sub(yb, ya), uc = f64x2.sub(yc, yb), ud = f64x2.sub(yd, yc);
      const za = highPass(ua, u1, z1, z2, e1, e2), zb = highPass(ub, ua, za, z1, e1, e2);
      z2 = highPass(uc, ub, zb, za, e1, e2);
      z1 = highPass(ud, uc, z2, zb, e1, e2);
      sum = f64x2.add(f64x2.add(f64x2.add(f64x2.add(sum, square(za)), square(zb)), square(z2)), square(z1));
      x2 = xc;
      x1 = xd;
      y2 = yc;
      y1 = yd;
      u1 = ud;
    }
    for (; i < <usize>end; i++) {
      const x = load2(l, r, i);
      const y = shelf(x, x1, x2, y1, y2, b1, b2, a1, a2);
      const u = f64x2.sub(y, y1);
      const z = highPass(u, u1, z1, z2, e1, e2);
      x2 = x1;
      x1 = x;
      y2 = y1;
      y1 = y;
      u1 = u;
      z2 = z1;
      z1 = z;
      sum = f64x2.add(sum, square(z));
    }
    done = end;
    if (inStep == stepFrames) {
      v128.store(out + (<usize>made << 4), f64x2.mul(sum, energy));
      made++;
      sum = f64x2.splat(0);
      inStep = 0;
      // Flushed where a step ends, so that block sizes make no difference.
      y1 = flush(y1);
      y2 = flush(y2);
      z1 = flush(z1);
      z2 = flush(z2);
      u1 = f64x2.sub(y1, y2);
    }
  }
  v128.store(state, x1);
  v128.store(state, x2, 16);
  v128.store(state, y1, 32);
  v128.store(state, y2, 48);
  v128.store(state, z1, 64);
  v128.store(state, z2, 80);
  v128.store(state, sum, 96);
  store<i32>(state, inStep, 112);
  return made;
}

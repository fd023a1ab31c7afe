// Cascade of second-order sections, transposed direct form II, f64, the two lanes are left and right.
// coefs: per section b0 b1 b2 a1 a2 (f64, a0 = 1). state: per section s1 s2 (each f64x2).
// scratch: n × f64x2. Order of operations is the same as in the TypeScript twin of the tests.

const TINY: f64 = 1e-30;

// @ts-ignore: decorator
@inline function load2(l: usize, r: usize, i: usize): v128 {
  return f64x2.replace_lane(f64x2.splat(<f64>load<f32>(l + (i << 2))), 1, <f64>load<f32>(r + (i << 2)));
}

// @ts-ignore: decorator
@inline function flush(x: v128): v128 {
  return v128.bitselect(x, f64x2.splat(0), f64x2.gt(f64x2.abs(x), f64x2.splat(TINY)));
}

function section1(buf: usize, n: usize, c: usize, s: usize): void {
  const b0 = f64x2.splat(load<f64>(c)), b1 = f64x2.splat(load<f64>(c, 8)), b2 = f64x2.splat(load<f64>(c, 16));
  const a1 = f64x2.splat(load<f64>(c, 24)), a2 = f64x2.splat(load<f64>(c, 32));
  let s1 = v128.load(s), s2 = v128.load(s, 16);
  for (let i: usize = 0; i < n; i++) {
    const p = buf + (i << 4);
    const x = v128.load(p);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.add(f64x2.sub(f64x2.mul(b1, x), f64x2.mul(a1, y)), s2);
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    v128.store(p, y);
  }
  v128.store(s, s1);
  v128.store(s, s2, 16);
}

/** Two sections a pass: one load and store instead of two. */
function section2(buf: usize, n: usize, c: usize, s: usize): void {
  const b0 = f64x2.splat(load<f64>(c)), b1 = f64x2.splat(load<f64>(c, 8)), b2 = f64x2.splat(load<f64>(c, 16));
  const a1 = f64x2.splat(load<f64>(c, 24)), a2 = f64x2.splat(load<f64>(c, 32));
  const d0 = f64x2.splat(load<f64>(c, 40)), d1 = f64x2.splat(load<f64>(c, 48)), d2 = f64x2.splat(load<f64>(c, 56));
  const e1 = f64x2.splat(load<f64>(c, 64)), e2 = f64x2.splat(load<f64>(c, 72));
  let s1 = v128.load(s), s2 = v128.load(s, 16), t1 = v128.load(s, 32), t2 = v128.load(s, 48);
  for (let i: usize = 0; i < n; i++) {
    const p = buf + (i << 4);
    const x = v128.load(p);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.add(f64x2.sub(f64x2.mul(b1, x), f64x2.mul(a1, y)), s2);
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const z = f64x2.add(f64x2.mul(d0, y), t1);
    t1 = f64x2.add(f64x2.sub(f64x2.mul(d1, y), f64x2.mul(e1, z)), t2);
    t2 = f64x2.sub(f64x2.mul(d2, y), f64x2.mul(e2, z));
    v128.store(p, z);
  }
  v128.store(s, s1);
  v128.store(s, s2, 16);
  v128.store(s, t1, 32);
  v128.store(s, t2, 48);
}

/** Sets states under 1e-30 to zero: denormal numbers are 40 times slower. */
export function flushStates(state: usize, sections: usize): void {
  for (let i: usize = 0; i < sections * 2; i++) v128.store(state + (i << 4), flush(v128.load(state + (i << 4))));
}

export function biquads(l: usize, r: usize, n: usize, coefs: usize, state: usize, sections: usize, scratch: usize): void {
  for (let i: usize = 0; i < n; i++) v128.store(scratch + (i << 4), load2(l, r, i));
  let k: usize = 0;
  for (; k + 2 <= sections; k += 2) section2(scratch, n, coefs + k * 40, state + k * 32);
  if (k < sections) section1(scratch, n, coefs + k * 40, state + k * 32);
  for (let i: usize = 0; i < n; i++) {
    const y = v128.load(scratch + (i << 4));
    store<f32>(l + (i << 2), <f32>f64x2.extract_lane(y, 0));
    store<f32>(r + (i << 2), <f32>f64x2.extract_lane(y, 1));
  }
}

/**
 * K-weighting (ITU-R BS.1770-5 annex 1) of a pair, and the sum of squares of every `step` frames; the signal is left untouched.
 * coefs: two sections. state: 4 × f64x2 of the filters, f64x2 of the sum going on, i32 frames in it.
 * out: f64 left, f64 right for each step that ends in this block. Returns their number.
 */
export function kWeightedSteps(l: usize, r: usize, n: i32, coefs: usize, state: usize, step: i32, out: usize): i32 {
  const b0 = f64x2.splat(load<f64>(coefs)), b1 = f64x2.splat(load<f64>(coefs, 8)), b2 = f64x2.splat(load<f64>(coefs, 16));
  const a1 = f64x2.splat(load<f64>(coefs, 24)), a2 = f64x2.splat(load<f64>(coefs, 32));
  const d0 = f64x2.splat(load<f64>(coefs, 40)), d1 = f64x2.splat(load<f64>(coefs, 48)), d2 = f64x2.splat(load<f64>(coefs, 56));
  const e1 = f64x2.splat(load<f64>(coefs, 64)), e2 = f64x2.splat(load<f64>(coefs, 72));
  let s1 = v128.load(state), s2 = v128.load(state, 16), t1 = v128.load(state, 32), t2 = v128.load(state, 48);
  let sum = v128.load(state, 64);
  let inStep = load<i32>(state, 80);
  let made = 0;
  for (let done = 0; done < n;) {
    const end = done + min(n - done, step - inStep);
    inStep += end - done;
    for (let i = <usize>done; i < <usize>end; i++) {
      const x = load2(l, r, i);
      const y = f64x2.add(f64x2.mul(b0, x), s1);
      s1 = f64x2.add(f64x2.sub(f64x2.mul(b1, x), f64x2.mul(a1, y)), s2);
      s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
      const z = f64x2.add(f64x2.mul(d0, y), t1);
      t1 = f64x2.add(f64x2.sub(f64x2.mul(d1, y), f64x2.mul(e1, z)), t2);
      t2 = f64x2.sub(f64x2.mul(d2, y), f64x2.mul(e2, z));
      sum = f64x2.add(sum, f64x2.mul(z, z));
    }
    done = end;
    if (inStep == step) {
      v128.store(out + (<usize>made << 4), sum);
      made++;
      sum = f64x2.splat(0);
      inStep = 0;
      // Flushed where a step ends, so that block sizes make no difference.
      s1 = flush(s1);
      s2 = flush(s2);
      t1 = flush(t1);
      t2 = flush(t2);
    }
  }
  v128.store(state, s1);
  v128.store(state, s2, 16);
  v128.store(state, t1, 32);
  v128.store(state, t2, 48);
  v128.store(state, sum, 64);
  store<i32>(state, inStep, 80);
  return made;
}

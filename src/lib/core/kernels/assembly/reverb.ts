// Feedback delay network of 16 lines with a Hadamard matrix: J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial
// reverberators", 90th AES Convention (1991). Before it: allpass diffusers (M. R. Schroeder, JAES 10, 1962). Wet signal only.
//
// All delays are at least four samples, so four frames are computed at once: a vector holds four frames of one line, and is turned
// to one frame of four lines for the low-passes alone.
import { quiet } from "./lanes";

const LINES: usize = 16;

/** Allpass of one channel in place: v = x + g v[-length], y = v[-length] - g v. length ≥ 4; returns the ring's next index. */
export function allpass(x: usize, n: usize, ring: usize, length: usize, index: usize, g: f32): usize {
  const share = f32x4.splat(g);
  for (let done: usize = 0; done < n;) {
    const run = min(n - done, length - index);
    const p = x + (done << 2), q = ring + (index << 2);
    let i: usize = 0;
    for (; i + 4 <= run; i += 4) {
      const o = i << 2, old = v128.load(q + o);
      const v = quiet(f32x4.add(v128.load(p + o), f32x4.mul(share, old)));
      v128.store(q + o, v);
      v128.store(p + o, f32x4.sub(old, f32x4.mul(share, v)));
    }
    for (; i < run; i++) {
      const o = i << 2, old = v128.load32_zero(q + o);
      const v = quiet(f32x4.add(v128.load32_zero(p + o), f32x4.mul(share, old)));
      v128.store32_lane(q + o, v, 0);
      v128.store32_lane(p + o, f32x4.sub(old, f32x4.mul(share, v)), 0);
    }
    done += run;
    index += run;
    if (index == length) index = 0;
  }
  return index;
}

/** The first m of four values. */
// @ts-ignore: decorator
@inline function storeSome(p: usize, v: v128, m: i32): void {
  if (m == 4) v128.store(p, v);
  else if (m == 1) v128.store32_lane(p, v, 0);
  else {
    v128.store64_lane(p, v, 0);
    if (m == 3) v128.store32_lane(p, v, 2, 8);
  }
}

/** Low-pass, one frame of four lines: f = in enter + f pole. */
// @ts-ignore: decorator
@inline function lowPass(f: v128, x: v128, enter: v128, pole: v128): v128 {
  return quiet(f32x4.add(f32x4.mul(x, enter), f32x4.mul(f, pole)));
}

/** Four lines, m frames: out of the rings, through the low-passes and the Hadamard matrix of order 4, into four vectors of `work`. */
// @ts-ignore: decorator
@inline function quarter(places: usize, o: usize, gains: usize, state: usize, work: usize, m: i32): void {
  const a = v128.load(<usize>load<u32>(places) + o), b = v128.load(<usize>load<u32>(places, 4) + o);
  const c = v128.load(<usize>load<u32>(places, 8) + o), d = v128.load(<usize>load<u32>(places, 12) + o);
  const ab0 = i32x4.shuffle(a, b, 0, 4, 1, 5), ab1 = i32x4.shuffle(a, b, 2, 6, 3, 7);
  const cd0 = i32x4.shuffle(c, d, 0, 4, 1, 5), cd1 = i32x4.shuffle(c, d, 2, 6, 3, 7);
  const enter = v128.load(gains), pole = v128.load(gains, 64);
  const t0 = lowPass(v128.load(state), i64x2.shuffle(ab0, cd0, 0, 2), enter, pole);
  const t1 = lowPass(t0, i64x2.shuffle(ab0, cd0, 1, 3), enter, pole);
  const t2 = lowPass(t1, i64x2.shuffle(ab1, cd1, 0, 2), enter, pole);
  const t3 = lowPass(t2, i64x2.shuffle(ab1, cd1, 1, 3), enter, pole);
  v128.store(state, m == 4 ? t3 : m == 3 ? t2 : m == 2 ? t1 : t0);
  const p0 = i32x4.shuffle(t0, t1, 0, 4, 1, 5), p1 = i32x4.shuffle(t0, t1, 2, 6, 3, 7);
  const q0 = i32x4.shuffle(t2, t3, 0, 4, 1, 5), q1 = i32x4.shuffle(t2, t3, 2, 6, 3, 7);
  const l0 = i64x2.shuffle(p0, q0, 0, 2), l1 = i64x2.shuffle(p0, q0, 1, 3), l2 = i64x2.shuffle(p1, q1, 0, 2), l3 = i64x2.shuffle(p1, q1, 1, 3);
  const s0 = f32x4.add(l0, l1), d0 = f32x4.sub(l0, l1), s1 = f32x4.add(l2, l3), d1 = f32x4.sub(l2, l3);
  v128.store(work, f32x4.add(s0, s1));
  v128.store(work, f32x4.add(d0, d1), 64);
  v128.store(work, f32x4.sub(s0, s1), 128);
  v128.store(work, f32x4.sub(d0, d1), 192);
}

/** Lines k, k + 4, k + 8 and k + 12: what comes of the matrix and the input x go back into them, and one of the rows is the output. */
// @ts-ignore: decorator
@inline function back(k: usize, places: usize, o: usize, work: usize, x: v128, out: usize, m: i32): void {
  const rows = work + (k << 6), to = places + (k << 2);
  const a = v128.load(rows), b = v128.load(rows, 16), c = v128.load(rows, 32), d = v128.load(rows, 48);
  const s0 = f32x4.add(a, b), d0 = f32x4.sub(a, b), s1 = f32x4.add(c, d), d1 = f32x4.sub(c, d);
  const h1 = f32x4.add(d0, d1), h2 = f32x4.sub(s0, s1);
  storeSome(<usize>load<u32>(to) + o, f32x4.add(f32x4.add(s0, s1), x), m);
  storeSome(<usize>load<u32>(to, 16) + o, k & 1 ? f32x4.sub(h1, x) : f32x4.add(h1, x), m);
  storeSome(<usize>load<u32>(to, 32) + o, f32x4.sub(h2, x), m);
  storeSome(<usize>load<u32>(to, 48) + o, f32x4.add(f32x4.sub(d0, d1), x), m);
  if (k == 2) storeSome(out, h1, m);
  if (k == 3) storeSome(out, h2, m);
}

/** m ≤ 4 frames in which no ring wraps. */
// @ts-ignore: decorator
@inline function frames(l: usize, r: usize, o: usize, gains: usize, state: usize, m: i32): void {
  const places = state + 128, work = state + 192;
  for (let g: usize = 0; g < 64; g += 16) quarter(places + g, o, gains + g, state + g, work + g, m);
  // Left feeds the even lines, right the odd ones.
  const x = v128.load(l + o), y = v128.load(r + o);
  back(0, places, o, work, x, 0, m);
  back(1, places, o, work, y, 0, m);
  back(2, places, o, work, f32x4.neg(x), l + o, m);
  back(3, places, o, work, f32x4.neg(y), r + o, m);
}

/**
 * The network, in place. rings: 16 × (i32 length ≥ 4, i32 offset into `sound` in f32); gains: 16 × f32 share of the input, then 16 × f32
 * pole of the lines' low-passes, the shares with the lines' gains and a quarter, which makes the matrix orthogonal. The outputs are two rows of the
 * matrix. state: 16 × f32 low-passes; 16 × i32 write indices at 64, 16 × u32 addresses at 128, 256 bytes of work at 192. What is read past
 * the end of l, r and the last ring is not used.
 */
export function reverb(l: usize, r: usize, n: i32, rings: usize, gains: usize, state: usize, sound: usize): void {
  const indices = state + 64, places = state + 128;
  for (let done = 0; done < n;) {
    let run = n - done;
    for (let k: usize = 0; k < LINES; k++) {
      const w = load<i32>(indices + (k << 2));
      run = min(run, load<i32>(rings + (k << 3)) - w);
      store<u32>(places + (k << 2), <u32>(sound + (<usize>(load<i32>(rings + (k << 3), 4) + w) << 2)));
    }
    const fromL = l + (<usize>done << 2), fromR = r + (<usize>done << 2);
    let i = 0;
    for (; i + 4 <= run; i += 4) frames(fromL, fromR, <usize>i << 2, gains, state, 4);
    if (i < run) frames(fromL, fromR, <usize>i << 2, gains, state, run - i);
    for (let k: usize = 0; k < LINES; k++) {
      const w = load<i32>(indices + (k << 2)) + run;
      store<i32>(indices + (k << 2), w == load<i32>(rings + (k << 3)) ? 0 : w);
    }
    done += run;
  }
}

// Feedback delay network of 16 or 32 lines with a Hadamard matrix: J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial
// reverberators", 90th AES Convention (1991). Before it: allpass diffusers (M. R. Schroeder, JAES 10, 1962). Wet signal only.
//
// All delays are at least four samples, so four frames are computed at once: a vector holds four frames of one line, and is turned
// to one frame of four lines for the low-passes alone.
import { quiet } from "./lanes";

// State: low-passes of 32 lines, their write indices, their addresses, rows of the matrix, and what four lines each give to the outputs.
const INDICES: usize = 128;
const PLACES: usize = 256;
const WORK: usize = 384;
const HEARD: usize = 896;

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

/**
 * Four lines, m frames: out of the rings, through the low-passes, summed for both outputs into `heard`, and through the Hadamard matrix of order 4
 * into four vectors of `work`.
 */
// @ts-ignore: decorator
@inline function quarter(places: usize, o: usize, gains: usize, poles: usize, state: usize, work: usize, heard: usize, m: i32): void {
  const a = v128.load(<usize>load<u32>(places) + o), b = v128.load(<usize>load<u32>(places, 4) + o);
  const c = v128.load(<usize>load<u32>(places, 8) + o), d = v128.load(<usize>load<u32>(places, 12) + o);
  const ab0 = i32x4.shuffle(a, b, 0, 4, 1, 5), ab1 = i32x4.shuffle(a, b, 2, 6, 3, 7);
  const cd0 = i32x4.shuffle(c, d, 0, 4, 1, 5), cd1 = i32x4.shuffle(c, d, 2, 6, 3, 7);
  const enter = v128.load(gains), pole = v128.load(poles);
  const t0 = lowPass(v128.load(state), i64x2.shuffle(ab0, cd0, 0, 2), enter, pole);
  const t1 = lowPass(t0, i64x2.shuffle(ab0, cd0, 1, 3), enter, pole);
  const t2 = lowPass(t1, i64x2.shuffle(ab1, cd1, 0, 2), enter, pole);
  const t3 = lowPass(t2, i64x2.shuffle(ab1, cd1, 1, 3), enter, pole);
  v128.store(state, m == 4 ? t3 : m == 3 ? t2 : m == 2 ? t1 : t0);
  const p0 = i32x4.shuffle(t0, t1, 0, 4, 1, 5), p1 = i32x4.shuffle(t0, t1, 2, 6, 3, 7);
  const q0 = i32x4.shuffle(t2, t3, 0, 4, 1, 5), q1 = i32x4.shuffle(t2, t3, 2, 6, 3, 7);
  const l0 = i64x2.shuffle(p0, q0, 0, 2), l1 = i64x2.shuffle(p0, q0, 1, 3), l2 = i64x2.shuffle(p1, q1, 0, 2), l3 = i64x2.shuffle(p1, q1, 1, 3);
  const s0 = f32x4.add(l0, l1), d0 = f32x4.sub(l0, l1), s1 = f32x4.add(l2, l3), d1 = f32x4.sub(l2, l3);
  v128.store(heard, f32x4.add(s0, d1));
  v128.store(heard, f32x4.add(d0, s1), 16);
  v128.store(work, f32x4.add(s0, s1));
  v128.store(work, f32x4.add(d0, d1), 64);
  v128.store(work, f32x4.sub(s0, s1), 128);
  v128.store(work, f32x4.sub(d0, d1), 192);
}

/** Lines k, k + 4, k + 8 and k + 12 of sixteen: what comes of the matrix and the input x go back into them. */
// @ts-ignore: decorator
@inline function back(k: usize, to: usize, o: usize, a: v128, b: v128, c: v128, d: v128, x: v128, m: i32): void {
  const s0 = f32x4.add(a, b), d0 = f32x4.sub(a, b), s1 = f32x4.add(c, d), d1 = f32x4.sub(c, d);
  const h1 = f32x4.add(d0, d1);
  storeSome(<usize>load<u32>(to) + o, f32x4.add(f32x4.add(s0, s1), x), m);
  storeSome(<usize>load<u32>(to, 16) + o, k & 1 ? f32x4.sub(h1, x) : f32x4.add(h1, x), m);
  storeSome(<usize>load<u32>(to, 32) + o, f32x4.sub(f32x4.sub(s0, s1), x), m);
  storeSome(<usize>load<u32>(to, 48) + o, f32x4.add(f32x4.sub(d0, d1), x), m);
}

/**
 * Sixteen lines. The signs with which lines are heard, + + + - within four and of fours on the left, are a bent function (O. S. Rothaus, J.
 * Combinatorial Theory 20, 1976): no line is heard with its own echo more than with those of all others. On the right they are those
 * times a row of the matrix.
 */
// @ts-ignore: decorator
@inline function sixteen(from: usize, o: usize, gains: usize, poles: usize, state: usize, work: usize, heard: usize, m: i32): void {
  quarter(from, o, gains, poles, state, work, heard, m);
  quarter(from + 16, o, gains + 16, poles + 16, state + 16, work + 16, heard + 32, m);
  quarter(from + 32, o, gains + 32, poles + 32, state + 32, work + 32, heard + 64, m);
  quarter(from + 48, o, gains + 48, poles + 48, state + 48, work + 48, heard + 96, m);
}

// @ts-ignore: decorator
@inline function left(heard: usize): v128 {
  return f32x4.add(f32x4.add(v128.load(heard), v128.load(heard, 32)), f32x4.sub(v128.load(heard, 64), v128.load(heard, 96)));
}

// @ts-ignore: decorator
@inline function right(heard: usize): v128 {
  return f32x4.add(f32x4.sub(v128.load(heard, 16), v128.load(heard, 48)), f32x4.add(v128.load(heard, 80), v128.load(heard, 112)));
}

// @ts-ignore: decorator
@inline function back16(k: usize, places: usize, o: usize, work: usize, x: v128, m: i32): void {
  const rows = work + (k << 6);
  back(k, places + (k << 2), o, v128.load(rows), v128.load(rows, 16), v128.load(rows, 32), v128.load(rows, 48), x, m);
}

// The two halves of 32 lines are turned into their sum and difference. own: what the second half hears.
// @ts-ignore: decorator
@inline function back32(k: usize, places: usize, o: usize, work: usize, x: v128, own: v128, m: i32): void {
  const rows = work + (k << 6), to = places + (k << 2);
  const a = v128.load(rows), b = v128.load(rows, 16), c = v128.load(rows, 32), d = v128.load(rows, 48);
  const e = v128.load(rows, 256), f = v128.load(rows, 272), g = v128.load(rows, 288), h = v128.load(rows, 304);
  back(k, to, o, f32x4.add(a, e), f32x4.add(b, f), f32x4.add(c, g), f32x4.add(d, h), x, m);
  back(k, to + 64, o, f32x4.sub(a, e), f32x4.sub(b, f), f32x4.sub(c, g), f32x4.sub(d, h), own, m);
}

/** m ≤ 4 frames in which no ring wraps. Left feeds the even lines, right the odd ones. */
// @ts-ignore: decorator
@inline function frames16(l: usize, r: usize, o: usize, gains: usize, state: usize, m: i32): void {
  const places = state + PLACES, work = state + WORK, heard = state + HEARD;
  sixteen(places, o, gains, gains + 64, state, work, heard, m);
  const x = v128.load(l + o), y = v128.load(r + o);
  back16(0, places, o, work, x, m);
  back16(1, places, o, work, y, m);
  back16(2, places, o, work, f32x4.neg(x), m);
  back16(3, places, o, work, f32x4.neg(y), m);
  storeSome(l + o, left(heard), m);
  storeSome(r + o, right(heard), m);
}

// @ts-ignore: decorator
@inline function frames32(l: usize, r: usize, o: usize, gains: usize, state: usize, m: i32): void {
  const places = state + PLACES, work = state + WORK, heard = state + HEARD;
  sixteen(places, o, gains, gains + 128, state, work, heard, m);
  sixteen(places + 64, o, gains + 64, gains + 192, state + 64, work + 256, heard + 128, m);
  const x = v128.load(l + o), y = v128.load(r + o);
  back32(0, places, o, work, x, x, m);
  back32(1, places, o, work, y, y, m);
  back32(2, places, o, work, f32x4.neg(x), x, m);
  back32(3, places, o, work, f32x4.neg(y), y, m);
  storeSome(l + o, f32x4.add(left(heard), left(heard + 128)), m);
  storeSome(r + o, f32x4.add(right(heard), right(heard + 128)), m);
}

// @ts-ignore: decorator
@inline function frames(l: usize, r: usize, o: usize, lines: usize, gains: usize, state: usize, m: i32): void {
  if (lines == 16) frames16(l, r, o, gains, state, m);
  else frames32(l, r, o, gains, state, m);
}

/**
 * The network, in place. lines: 16 or 32. rings: for each line i32 length ≥ 4 and i32 offset into `sound` in f32; gains: for each line f32 share of
 * the input, then for each the pole of its low-pass, the shares with the lines' gains and 1 / √lines, which makes the matrix orthogonal. state: 1152
 * bytes, at first zero. What is read past the end of l, r and the last ring is not used.
 */
export function reverb(l: usize, r: usize, n: i32, lines: usize, rings: usize, gains: usize, state: usize, sound: usize): void {
  const indices = state + INDICES, places = state + PLACES;
  for (let done = 0; done < n;) {
    let run = n - done;
    for (let k: usize = 0; k < lines; k++) {
      const w = load<i32>(indices + (k << 2));
      run = min(run, load<i32>(rings + (k << 3)) - w);
      store<u32>(places + (k << 2), <u32>(sound + (<usize>(load<i32>(rings + (k << 3), 4) + w) << 2)));
    }
    const fromL = l + (<usize>done << 2), fromR = r + (<usize>done << 2);
    let i = 0;
    for (; i + 4 <= run; i += 4) frames(fromL, fromR, <usize>i << 2, lines, gains, state, 4);
    if (i < run) frames(fromL, fromR, <usize>i << 2, lines, gains, state, run - i);
    for (let k: usize = 0; k < lines; k++) {
      const w = load<i32>(indices + (k << 2)) + run;
      store<i32>(indices + (k << 2), w == load<i32>(rings + (k << 3)) ? 0 : w);
    }
    done += run;
  }
}

// Sparse restoration of two real frames that are transformed as one complex one. A lane's spectrum: `rows` f32 real parts, then as many imaginary ones,
// of bins 0 … n/2 and zeros up to a multiple of four.
import { across, reversed } from "./lanes";

/** Powers are counted by their leading bits: sixteen classes an octave. */
const CLASS_SHIFT: i32 = 19;
const CLASSES: i32 = 4096;

/** The spectra a and b of two real frames from that of a + ib, times scale; rows: multiple of four above n/2. */
export function separate(zr: usize, zi: usize, a: usize, b: usize, n: usize, rows: usize, scale: f32): void {
  const h = n >> 1, last = n << 2, im = rows << 2, s = f32x4.splat(scale);
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const r = v128.load(zr + o), i = v128.load(zi + o), mr = reversed(v128.load(zr + m)), mi = reversed(v128.load(zi + m));
    v128.store(a + o, f32x4.mul(f32x4.add(r, mr), s));
    v128.store(a + im + o, f32x4.mul(f32x4.sub(i, mi), s));
    v128.store(b + o, f32x4.mul(f32x4.add(i, mi), s));
    v128.store(b + im + o, f32x4.mul(f32x4.sub(mr, r), s));
  }
  separateOne(zr, zi, a, b, 0, 0, im, scale);
  for (let k: usize = 1; k < 4; k++) separateOne(zr, zi, a, b, k << 2, last - (k << 2), im, scale);
  separateOne(zr, zi, a, b, h << 2, h << 2, im, scale);
}

// @ts-ignore: decorator
@inline
function separateOne(zr: usize, zi: usize, a: usize, b: usize, o: usize, m: usize, im: usize, scale: f32): void {
  const r = load<f32>(zr + o), i = load<f32>(zi + o), mr = load<f32>(zr + m), mi = load<f32>(zi + m);
  store<f32>(a + o, (r + mr) * scale);
  store<f32>(a + im + o, (i - mi) * scale);
  store<f32>(b + o, (i + mi) * scale);
  store<f32>(b + im + o, (mr - r) * scale);
}

/** The spectrum of a - p + i(b - q), real and imaginary parts exchanged for the inverse transform. */
export function joinDifferences(a: usize, p: usize, b: usize, q: usize, zr: usize, zi: usize, n: usize, rows: usize): void {
  const h = n >> 1, last = n << 2, im = rows << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const ar = f32x4.sub(v128.load(a + o), v128.load(p + o)), ai = f32x4.sub(v128.load(a + im + o), v128.load(p + im + o));
    const br = f32x4.sub(v128.load(b + o), v128.load(q + o)), bi = f32x4.sub(v128.load(b + im + o), v128.load(q + im + o));
    v128.store(zi + o, f32x4.sub(ar, bi));
    v128.store(zr + o, f32x4.add(ai, br));
    v128.store(zi + m, reversed(f32x4.add(ar, bi)));
    v128.store(zr + m, reversed(f32x4.sub(br, ai)));
  }
  joinOne(a, p, b, q, zr, zi, 0, 0, im);
  for (let k: usize = 1; k < 4; k++) joinOne(a, p, b, q, zr, zi, k << 2, last - (k << 2), im);
  joinOne(a, p, b, q, zr, zi, h << 2, h << 2, im);
}

// @ts-ignore: decorator
@inline
function joinOne(a: usize, p: usize, b: usize, q: usize, zr: usize, zi: usize, o: usize, m: usize, im: usize): void {
  const ar = load<f32>(a + o) - load<f32>(p + o), ai = load<f32>(a + im + o) - load<f32>(p + im + o);
  const br = load<f32>(b + o) - load<f32>(q + o), bi = load<f32>(b + im + o) - load<f32>(q + im + o);
  store<f32>(zi + m, ar + bi);
  store<f32>(zr + m, br - ai);
  store<f32>(zi + o, ar - bi);
  store<f32>(zr + o, ai + br);
}

/**
 * strong = x + carried, of which about k parts are kept whose power times weight is greatest: all that reach the class of the k-th.
 * classes: work space of 4096 i32; power: of `rows` f32.
 */
export function keepStrongest(x: usize, carried: usize, strong: usize, weights: usize, power: usize, classes: usize, rows: usize, k: i32): void {
  const size = rows << 2;
  memory.fill(classes, 0, CLASSES << 2);
  for (let o: usize = 0; o < size; o += 16) {
    const re = f32x4.add(v128.load(x + o), v128.load(carried + o)), im = f32x4.add(v128.load(x + size + o), v128.load(carried + size + o));
    v128.store(strong + o, re);
    v128.store(strong + size + o, im);
    v128.store(power + o, f32x4.mul(f32x4.add(f32x4.mul(re, re), f32x4.mul(im, im)), v128.load(weights + o)));
  }
  for (let o: usize = 0; o < size; o += 4) {
    const at = classes + ((load<i32>(power + o) >> CLASS_SHIFT) << 2);
    store<i32>(at, load<i32>(at) + 1);
  }
  let kept: i32 = 0, c = CLASSES - 1;
  for (; c > 0; c--) {
    kept += load<i32>(classes + (c << 2));
    if (kept >= k) break;
  }
  // The least power of that class: its leading bits, and zeros.
  const least = f32x4.splat(reinterpret<f32>(c << CLASS_SHIFT));
  for (let o: usize = 0; o < size; o += 16) {
    const keep = f32x4.ge(v128.load(power + o), least);
    v128.store(strong + o, v128.and(v128.load(strong + o), keep));
    v128.store(strong + size + o, v128.and(v128.load(strong + size + o), keep));
  }
}

/** carried += x - strong; returns the sum of the squares of x - strong. */
export function carryOver(x: usize, strong: usize, carried: usize, rows: usize): f32 {
  let sum = f32x4.splat(0);
  for (let o: usize = 0; o < rows << 3; o += 16) {
    const apart = f32x4.sub(v128.load(x + o), v128.load(strong + o));
    v128.store(carried + o, f32x4.add(v128.load(carried + o), apart));
    sum = f32x4.add(sum, f32x4.mul(apart, apart));
  }
  return across(sum);
}

/** x = v × scale, held between low and high. n: a multiple of four. */
export function hold(x: usize, v: usize, low: usize, high: usize, n: usize, scale: f32): void {
  const s = f32x4.splat(scale);
  for (let o: usize = 0; o < n << 2; o += 16)
    v128.store(x + o, f32x4.min(f32x4.max(f32x4.mul(v128.load(v + o), s), v128.load(low + o)), v128.load(high + o)));
}

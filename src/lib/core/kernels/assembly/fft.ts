// Complex FFT of planar f32, Stockham radix 4 (a last stage of radix 2 for odd powers), without bit reversal.
// Method: C. Van Loan, "Computational Frameworks for the Fast Fourier Transform" (1992), section 1.7.
//
// A stereo pair is one complex transform: left is the real part, right the imaginary one.
// table: cos and -sin of 2πp/n, 4πp/n, 6πp/n for p < n/4: six planar rows of n/4 f32.

// @ts-ignore: decorator
@inline function cmulRe(ar: v128, ai: v128, wr: v128, wi: v128): v128 {
  return f32x4.sub(f32x4.mul(ar, wr), f32x4.mul(ai, wi));
}

// @ts-ignore: decorator
@inline function cmulIm(ar: v128, ai: v128, wr: v128, wi: v128): v128 {
  return f32x4.add(f32x4.mul(ar, wi), f32x4.mul(ai, wr));
}

/** Stores four vectors transposed: lane k of each goes to the k-th group of four. */
// @ts-ignore: decorator
@inline function storeTransposed(p: usize, a: v128, b: v128, c: v128, d: v128): void {
  const ab0 = i32x4.shuffle(a, b, 0, 4, 1, 5), ab1 = i32x4.shuffle(a, b, 2, 6, 3, 7);
  const cd0 = i32x4.shuffle(c, d, 0, 4, 1, 5), cd1 = i32x4.shuffle(c, d, 2, 6, 3, 7);
  v128.store(p, i64x2.shuffle(ab0, cd0, 0, 2));
  v128.store(p, i64x2.shuffle(ab0, cd0, 1, 3), 16);
  v128.store(p, i64x2.shuffle(ab1, cd1, 0, 2), 32);
  v128.store(p, i64x2.shuffle(ab1, cd1, 1, 3), 48);
}

/** First stage: neighbouring p in the lanes, output transposed. */
function firstStage(xr: usize, xi: usize, yr: usize, yi: usize, n: usize, table: usize): void {
  const m = n >> 2, row = m << 2;
  for (let p: usize = 0; p < m; p += 4) {
    const o = p << 2;
    const ar = v128.load(xr + o), br = v128.load(xr + o + row), cr = v128.load(xr + o + 2 * row), dr = v128.load(xr + o + 3 * row);
    const ai = v128.load(xi + o), bi = v128.load(xi + o + row), ci = v128.load(xi + o + 2 * row), di = v128.load(xi + o + 3 * row);
    const sr = f32x4.add(ar, cr), si = f32x4.add(ai, ci), er = f32x4.sub(ar, cr), ei = f32x4.sub(ai, ci);
    const tr = f32x4.add(br, dr), ti = f32x4.add(bi, di);
    // i (b - d)
    const jr = f32x4.sub(di, bi), ji = f32x4.sub(br, dr);
    const w = table + o;
    const r1 = f32x4.sub(er, jr), i1 = f32x4.sub(ei, ji);
    const r2 = f32x4.sub(sr, tr), i2 = f32x4.sub(si, ti);
    const r3 = f32x4.add(er, jr), i3 = f32x4.add(ei, ji);
    const w1r = v128.load(w), w1i = v128.load(w + row), w2r = v128.load(w + 2 * row), w2i = v128.load(w + 3 * row);
    const w3r = v128.load(w + 4 * row), w3i = v128.load(w + 5 * row);
    const y = p << 4;
    storeTransposed(yr + y, f32x4.add(sr, tr), cmulRe(r1, i1, w1r, w1i), cmulRe(r2, i2, w2r, w2i), cmulRe(r3, i3, w3r, w3i));
    storeTransposed(yi + y, f32x4.add(si, ti), cmulIm(r1, i1, w1r, w1i), cmulIm(r2, i2, w2r, w2i), cmulIm(r3, i3, w3r, w3i));
  }
}

/** A stage of length `len` at stride s ≥ 4: neighbouring q in the lanes. */
function stage(xr: usize, xi: usize, yr: usize, yi: usize, len: usize, s: usize, row: usize, table: usize): void {
  const m = len >> 2, block = s << 2, quarter = (m * s) << 2;
  for (let p: usize = 0; p < m; p++) {
    const w = table + ((p * s) << 2);
    const w1r = v128.load32_splat(w), w1i = v128.load32_splat(w + row), w2r = v128.load32_splat(w + 2 * row);
    const w2i = v128.load32_splat(w + 3 * row), w3r = v128.load32_splat(w + 4 * row), w3i = v128.load32_splat(w + 5 * row);
    const from: usize = p * block, to: usize = p * block * 4;
    for (let o: usize = 0; o < block; o += 16) {
      const x = from + o, y = to + o;
      const ar = v128.load(xr + x), br = v128.load(xr + x + quarter), cr = v128.load(xr + x + 2 * quarter), dr = v128.load(xr + x + 3 * quarter);
      const ai = v128.load(xi + x), bi = v128.load(xi + x + quarter), ci = v128.load(xi + x + 2 * quarter), di = v128.load(xi + x + 3 * quarter);
      const sr = f32x4.add(ar, cr), si = f32x4.add(ai, ci), er = f32x4.sub(ar, cr), ei = f32x4.sub(ai, ci);
      const tr = f32x4.add(br, dr), ti = f32x4.add(bi, di);
      const jr = f32x4.sub(di, bi), ji = f32x4.sub(br, dr);
      const r1 = f32x4.sub(er, jr), i1 = f32x4.sub(ei, ji);
      const r2 = f32x4.sub(sr, tr), i2 = f32x4.sub(si, ti);
      const r3 = f32x4.add(er, jr), i3 = f32x4.add(ei, ji);
      v128.store(yr + y, f32x4.add(sr, tr));
      v128.store(yi + y, f32x4.add(si, ti));
      v128.store(yr + y + block, cmulRe(r1, i1, w1r, w1i));
      v128.store(yi + y + block, cmulIm(r1, i1, w1r, w1i));
      v128.store(yr + y + 2 * block, cmulRe(r2, i2, w2r, w2i));
      v128.store(yi + y + 2 * block, cmulIm(r2, i2, w2r, w2i));
      v128.store(yr + y + 3 * block, cmulRe(r3, i3, w3r, w3i));
      v128.store(yi + y + 3 * block, cmulIm(r3, i3, w3r, w3i));
    }
  }
}

/** Last stage of length 4: all factors are 1. */
function lastFour(xr: usize, xi: usize, yr: usize, yi: usize, s: usize): void {
  const block = s << 2;
  for (let o: usize = 0; o < block; o += 16) {
    const ar = v128.load(xr + o), br = v128.load(xr + o + block), cr = v128.load(xr + o + 2 * block), dr = v128.load(xr + o + 3 * block);
    const ai = v128.load(xi + o), bi = v128.load(xi + o + block), ci = v128.load(xi + o + 2 * block), di = v128.load(xi + o + 3 * block);
    const sr = f32x4.add(ar, cr), si = f32x4.add(ai, ci), er = f32x4.sub(ar, cr), ei = f32x4.sub(ai, ci);
    const tr = f32x4.add(br, dr), ti = f32x4.add(bi, di);
    const jr = f32x4.sub(di, bi), ji = f32x4.sub(br, dr);
    v128.store(yr + o, f32x4.add(sr, tr));
    v128.store(yi + o, f32x4.add(si, ti));
    v128.store(yr + o + block, f32x4.sub(er, jr));
    v128.store(yi + o + block, f32x4.sub(ei, ji));
    v128.store(yr + o + 2 * block, f32x4.sub(sr, tr));
    v128.store(yi + o + 2 * block, f32x4.sub(si, ti));
    v128.store(yr + o + 3 * block, f32x4.add(er, jr));
    v128.store(yi + o + 3 * block, f32x4.add(ei, ji));
  }
}

function lastTwo(x: usize, y: usize, s: usize): void {
  const block = s << 2;
  for (let o: usize = 0; o < block; o += 16) {
    const a = v128.load(x + o), b = v128.load(x + o + block);
    v128.store(y + o, f32x4.add(a, b));
    v128.store(y + o + block, f32x4.sub(a, b));
  }
}

/**
 * Forward transform of n = 64, 128 … 65536 points, in place in xr and xi; yr and yi are scratch of the same size.
 * Not scaled. The inverse is the same with real and imaginary parts exchanged on both sides, divided by n.
 */
export function fft(xr: usize, xi: usize, yr: usize, yi: usize, n: usize, table: usize): void {
  const row = n;
  firstStage(xr, xi, yr, yi, n, table);
  let fr = yr, fi = yi, tr = xr, ti = xi;
  let len = n >> 2;
  let s: usize = 4;
  while (len >= 2) {
    if (len == 2) {
      lastTwo(fr, tr, s);
      lastTwo(fi, ti, s);
      len = 1;
    } else if (len == 4) {
      lastFour(fr, fi, tr, ti, s);
      len = 1;
    } else {
      stage(fr, fi, tr, ti, len, s, row, table);
      len >>= 2;
      s <<= 2;
    }
    const hr = fr, hi = fi;
    fr = tr;
    fi = ti;
    tr = hr;
    ti = hi;
  }
  if (fr != xr) {
    memory.copy(xr, fr, n << 2);
    memory.copy(xi, fi, n << 2);
  }
}

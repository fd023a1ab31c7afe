// Complex FFT of planar f32, Stockham radix 4 (a last stage of radix 8 for odd powers), without bit reversal.
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

/** The part of a stage in which all factors are 1: its first block, and all of the last stage. */
function plain(xr: usize, xi: usize, yr: usize, yi: usize, block: usize, quarter: usize): void {
  for (let o: usize = 0; o < block; o += 16) {
    const ar = v128.load(xr + o), br = v128.load(xr + o + quarter), cr = v128.load(xr + o + 2 * quarter), dr = v128.load(xr + o + 3 * quarter);
    const ai = v128.load(xi + o), bi = v128.load(xi + o + quarter), ci = v128.load(xi + o + 2 * quarter), di = v128.load(xi + o + 3 * quarter);
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

/** A stage of length `len` at stride s ≥ 4: neighbouring q in the lanes. */
function stage(xr: usize, xi: usize, yr: usize, yi: usize, len: usize, s: usize, row: usize, table: usize): void {
  const m = len >> 2, block = s << 2, quarter = (m * s) << 2;
  plain(xr, xi, yr, yi, block, quarter);
  for (let p: usize = 1; p < m; p++) {
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

/** Last stage of length 8: its only factors are powers of e^(-iπ/4). */
function lastEight(xr: usize, xi: usize, yr: usize, yi: usize, block: usize): void {
  const root = f32x4.splat(0.7071067811865476);
  for (let o: usize = 0; o < block; o += 16) {
    const r = xr + o, i = xi + o, half = 4 * block;
    const ar = v128.load(r), ai = v128.load(i), br = v128.load(r + block), bi = v128.load(i + block);
    const cr = v128.load(r + 2 * block), ci = v128.load(i + 2 * block), dr = v128.load(r + 3 * block), di = v128.load(i + 3 * block);
    const er = v128.load(r + half), ei = v128.load(i + half), fr = v128.load(r + block + half), fi = v128.load(i + block + half);
    const gr = v128.load(r + 2 * block + half), gi = v128.load(i + 2 * block + half), hr = v128.load(r + 3 * block + half), hi = v128.load(i + 3 * block + half);
    const t0r = f32x4.add(ar, er), t0i = f32x4.add(ai, ei), t1r = f32x4.sub(ar, er), t1i = f32x4.sub(ai, ei);
    const t2r = f32x4.add(cr, gr), t2i = f32x4.add(ci, gi), t3r = f32x4.sub(cr, gr), t3i = f32x4.sub(ci, gi);
    const u0r = f32x4.add(br, fr), u0i = f32x4.add(bi, fi), u1r = f32x4.sub(br, fr), u1i = f32x4.sub(bi, fi);
    const u2r = f32x4.add(dr, hr), u2i = f32x4.add(di, hi), u3r = f32x4.sub(dr, hr), u3i = f32x4.sub(di, hi);
    const yo = yr + o, zo = yi + o;
    // Bins 0, 4, 2, 6.
    const e0r = f32x4.add(t0r, t2r), e0i = f32x4.add(t0i, t2i), e2r = f32x4.sub(t0r, t2r), e2i = f32x4.sub(t0i, t2i);
    const o0r = f32x4.add(u0r, u2r), o0i = f32x4.add(u0i, u2i), o2r = f32x4.sub(u0r, u2r), o2i = f32x4.sub(u0i, u2i);
    v128.store(yo, f32x4.add(e0r, o0r));
    v128.store(zo, f32x4.add(e0i, o0i));
    v128.store(yo + half, f32x4.sub(e0r, o0r));
    v128.store(zo + half, f32x4.sub(e0i, o0i));
    v128.store(yo + 2 * block, f32x4.add(e2r, o2i));
    v128.store(zo + 2 * block, f32x4.sub(e2i, o2r));
    v128.store(yo + 2 * block + half, f32x4.sub(e2r, o2i));
    v128.store(zo + 2 * block + half, f32x4.add(e2i, o2r));
    // Bins 1, 5: (1 - i) / √2; bins 3, 7: (-1 - i) / √2.
    const e1r = f32x4.add(t1r, t3i), e1i = f32x4.sub(t1i, t3r), e3r = f32x4.sub(t1r, t3i), e3i = f32x4.add(t1i, t3r);
    const o1r = f32x4.add(u1r, u3i), o1i = f32x4.sub(u1i, u3r), o3r = f32x4.sub(u1r, u3i), o3i = f32x4.add(u1i, u3r);
    const w1r = f32x4.mul(f32x4.add(o1r, o1i), root), w1i = f32x4.mul(f32x4.sub(o1i, o1r), root);
    const w3r = f32x4.mul(f32x4.sub(o3i, o3r), root), w3i = f32x4.mul(f32x4.add(o3i, o3r), root);
    v128.store(yo + block, f32x4.add(e1r, w1r));
    v128.store(zo + block, f32x4.add(e1i, w1i));
    v128.store(yo + block + half, f32x4.sub(e1r, w1r));
    v128.store(zo + block + half, f32x4.sub(e1i, w1i));
    v128.store(yo + 3 * block, f32x4.add(e3r, w3r));
    v128.store(zo + 3 * block, f32x4.sub(e3i, w3i));
    v128.store(yo + 3 * block + half, f32x4.sub(e3r, w3r));
    v128.store(zo + 3 * block + half, f32x4.add(e3i, w3i));
  }
}

/**
 * Forward transform of n = 64, 128 … 65536 points from xr and xi, not scaled. The inverse is the same with real and imaginary parts exchanged
 * on both sides, divided by n. The stages write to yr, yi and xr, xi by turns: the result is in y after an odd number of them, else in x.
 */
export function fft(xr: usize, xi: usize, yr: usize, yi: usize, n: usize, table: usize): void {
  const row = n;
  firstStage(xr, xi, yr, yi, n, table);
  let fr = yr, fi = yi, tr = xr, ti = xi;
  let len = n >> 2;
  let s: usize = 4;
  while (len > 1) {
    if (len == 8) {
      lastEight(fr, fi, tr, ti, s << 2);
      len = 1;
    } else if (len == 4) {
      plain(fr, fi, tr, ti, s << 2, s << 2);
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
}

// Operations on blocks of spectra and windows, planar f32, lengths multiples of 4.

/** dst = a × b */
export function multiply(dst: usize, a: usize, b: usize, n: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16) v128.store(dst + o, f32x4.mul(v128.load(a + o), v128.load(b + o)));
}

/** dst += a × b */
export function multiplyAdd(dst: usize, a: usize, b: usize, n: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16)
    v128.store(dst + o, f32x4.add(v128.load(dst + o), f32x4.mul(v128.load(a + o), v128.load(b + o))));
}

// Four values in the opposite order: bins n - k … n - k - 3.
// @ts-ignore: decorator
@inline function back(p: usize): v128 {
  const x = v128.load(p);
  return i32x4.shuffle(x, x, 3, 2, 1, 0);
}

// @ts-ignore: decorator
@inline function half(x: v128): v128 {
  return f32x4.mul(x, f32x4.splat(0.5));
}

/**
 * The half spectra (bins 0 … n/2 - 1, and n/2 in the imaginary part of bin 0) of two real signals that were transformed as real and
 * imaginary part of one: L = (Z[k] + conj Z[n-k]) / 2, R = (Z[k] - conj Z[n-k]) / 2i.
 */
export function splitPair(zr: usize, zi: usize, n: usize, lr: usize, li: usize, rr: usize, ri: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const ar = v128.load(zr + o), ai = v128.load(zi + o), br = back(zr + m), bi = back(zi + m);
    v128.store(lr + o, half(f32x4.add(ar, br)));
    v128.store(li + o, half(f32x4.sub(ai, bi)));
    v128.store(rr + o, half(f32x4.add(ai, bi)));
    v128.store(ri + o, half(f32x4.sub(br, ar)));
  }
  for (let k: usize = 1; k < 4; k++) {
    const o = k << 2, m = last - o;
    store<f32>(lr + o, (load<f32>(zr + o) + load<f32>(zr + m)) * 0.5);
    store<f32>(li + o, (load<f32>(zi + o) - load<f32>(zi + m)) * 0.5);
    store<f32>(rr + o, (load<f32>(zi + o) + load<f32>(zi + m)) * 0.5);
    store<f32>(ri + o, (load<f32>(zr + m) - load<f32>(zr + o)) * 0.5);
  }
  store<f32>(lr, load<f32>(zr));
  store<f32>(rr, load<f32>(zi));
  store<f32>(li, load<f32>(zr + (h << 2)));
  store<f32>(ri, load<f32>(zi + (h << 2)));
}

/** Undoes `splitPair`: Z = L + i R. */
export function joinPair(zr: usize, zi: usize, n: usize, lr: usize, li: usize, rr: usize, ri: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const ar = v128.load(lr + o), ai = v128.load(li + o), br = v128.load(rr + o), bi = v128.load(ri + o);
    v128.store(zr + o, f32x4.sub(ar, bi));
    v128.store(zi + o, f32x4.add(ai, br));
    const cr = f32x4.add(ar, bi), ci = f32x4.sub(br, ai);
    v128.store(zr + m, i32x4.shuffle(cr, cr, 3, 2, 1, 0));
    v128.store(zi + m, i32x4.shuffle(ci, ci, 3, 2, 1, 0));
  }
  for (let k: usize = 1; k < 4; k++) {
    const o = k << 2, m = last - o;
    const ar = load<f32>(lr + o), ai = load<f32>(li + o), br = load<f32>(rr + o), bi = load<f32>(ri + o);
    store<f32>(zr + o, ar - bi);
    store<f32>(zi + o, ai + br);
    store<f32>(zr + m, ar + bi);
    store<f32>(zi + m, br - ai);
  }
  store<f32>(zr, load<f32>(lr));
  store<f32>(zi, load<f32>(rr));
  store<f32>(zr + (h << 2), load<f32>(li));
  store<f32>(zi + (h << 2), load<f32>(ri));
}

/**
 * acc += Σ past[p] × response[p] over partitions, complex half spectra of `bins` bins as `splitPair` makes them (re, then im, each
 * bins f32). past: a ring of `count` of them, `first` the newest; response: in order. A stretch of bins at a time, so that acc stays in the
 * nearest cache.
 */
export function convolvePartitions(acc: usize, past: usize, response: usize, bins: usize, count: i32, first: i32): void {
  const STRETCH: usize = 512;
  const im = bins << 2, spectrum = bins << 3;
  const dc = load<f32>(acc), top = load<f32>(acc + im);
  let sumDc = dc, sumTop = top;
  for (let from: usize = 0; from < bins; from += STRETCH) {
    const begin = from << 2, end = min(bins, from + STRETCH) << 2;
    let q = first;
    for (let p = 0; p < count; p++) {
      const x = past + <usize>q * spectrum, y = response + <usize>p * spectrum;
      if (from == 0) {
        sumDc += load<f32>(x) * load<f32>(y);
        sumTop += load<f32>(x + im) * load<f32>(y + im);
      }
      for (let o = begin; o < end; o += 16) {
        const xr = v128.load(x + o), xi = v128.load(x + im + o), yr = v128.load(y + o), yi = v128.load(y + im + o);
        v128.store(acc + o, f32x4.add(v128.load(acc + o), f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi))));
        v128.store(acc + im + o, f32x4.add(v128.load(acc + im + o), f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr))));
      }
      q++;
      if (q == count) q = 0;
    }
  }
  // Bins 0 and n/2 are real and share the first place.
  store<f32>(acc, sumDc);
  store<f32>(acc + im, sumTop);
}

/** |L|² + |R|² for bins 0 … n/2 of a stereo pair transformed as one. */
export function pairPower(zr: usize, zi: usize, out: usize, n: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const ar = v128.load(zr + o), ai = v128.load(zi + o), br = back(zr + m), bi = back(zi + m);
    const a = f32x4.add(f32x4.mul(ar, ar), f32x4.mul(ai, ai)), b = f32x4.add(f32x4.mul(br, br), f32x4.mul(bi, bi));
    v128.store(out + o, half(f32x4.add(a, b)));
  }
  for (let k: usize = 1; k < 4; k++) {
    const o = k << 2, m = last - o;
    const a = load<f32>(zr + o), b = load<f32>(zi + o), c = load<f32>(zr + m), d = load<f32>(zi + m);
    store<f32>(out + o, ((a * a + b * b) + (c * c + d * d)) * 0.5);
  }
  const r0 = load<f32>(zr), i0 = load<f32>(zi), rh = load<f32>(zr + (h << 2)), ih = load<f32>(zi + (h << 2));
  store<f32>(out, r0 * r0 + i0 * i0);
  store<f32>(out + (h << 2), rh * rh + ih * ih);
}

/** Multiplies a transformed pair by one gain for each bin 0 … n/2, on both sides of the spectrum. */
export function pairGain(zr: usize, zi: usize, gains: usize, n: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const g = v128.load(gains + o), b = i32x4.shuffle(g, g, 3, 2, 1, 0);
    v128.store(zr + o, f32x4.mul(v128.load(zr + o), g));
    v128.store(zi + o, f32x4.mul(v128.load(zi + o), g));
    v128.store(zr + m, f32x4.mul(v128.load(zr + m), b));
    v128.store(zi + m, f32x4.mul(v128.load(zi + m), b));
  }
  for (let k: usize = 0; k < 4; k++) {
    const o = k << 2, g = load<f32>(gains + o);
    store<f32>(zr + o, load<f32>(zr + o) * g);
    store<f32>(zi + o, load<f32>(zi + o) * g);
    if (k == 0) continue;
    store<f32>(zr + last - o, load<f32>(zr + last - o) * g);
    store<f32>(zi + last - o, load<f32>(zi + last - o) * g);
  }
  const o = h << 2, g = load<f32>(gains + o);
  store<f32>(zr + o, load<f32>(zr + o) * g);
  store<f32>(zi + o, load<f32>(zi + o) * g);
}

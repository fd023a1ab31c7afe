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

/** Complex acc += a × b. */
export function complexMultiplyAdd(accR: usize, accI: usize, ar: usize, ai: usize, br: usize, bi: usize, n: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16) {
    const xr = v128.load(ar + o), xi = v128.load(ai + o), yr = v128.load(br + o), yi = v128.load(bi + o);
    v128.store(accR + o, f32x4.add(v128.load(accR + o), f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi))));
    v128.store(accI + o, f32x4.add(v128.load(accI + o), f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr))));
  }
}

/** Spectrum of the same signals with the imaginary one negated: conj(Z[n - k]). Together with Z it gives both halves of a stereo pair. */
export function mirrored(zr: usize, zi: usize, mr: usize, mi: usize, n: usize): void {
  store<f32>(mr, load<f32>(zr));
  store<f32>(mi, -load<f32>(zi));
  for (let k: usize = 1; k < n; k++) {
    store<f32>(mr + (k << 2), load<f32>(zr + ((n - k) << 2)));
    store<f32>(mi + (k << 2), -load<f32>(zi + ((n - k) << 2)));
  }
}

/** |L|² + |R|² for bins 0 … n/2 of a stereo pair transformed as one. */
export function pairPower(zr: usize, zi: usize, out: usize, n: usize): void {
  const half = n >> 1;
  const r0 = load<f32>(zr), i0 = load<f32>(zi), rh = load<f32>(zr + (half << 2)), ih = load<f32>(zi + (half << 2));
  store<f32>(out, r0 * r0 + i0 * i0);
  store<f32>(out + (half << 2), rh * rh + ih * ih);
  for (let k: usize = 1; k < half; k++) {
    const a = load<f32>(zr + (k << 2)), b = load<f32>(zi + (k << 2));
    const c = load<f32>(zr + ((n - k) << 2)), d = load<f32>(zi + ((n - k) << 2));
    store<f32>(out + (k << 2), ((a * a + b * b) + (c * c + d * d)) * 0.5);
  }
}

/** Multiplies a transformed pair by one gain for each bin 0 … n/2, on both sides of the spectrum. */
export function pairGain(zr: usize, zi: usize, gains: usize, n: usize): void {
  const half = n >> 1;
  for (let k: usize = 0; k <= half; k++) {
    const g = load<f32>(gains + (k << 2));
    store<f32>(zr + (k << 2), load<f32>(zr + (k << 2)) * g);
    store<f32>(zi + (k << 2), load<f32>(zi + (k << 2)) * g);
    if (k > 0 && k < half) {
      const o = (n - k) << 2;
      store<f32>(zr + o, load<f32>(zr + o) * g);
      store<f32>(zi + o, load<f32>(zi + o) * g);
    }
  }
}

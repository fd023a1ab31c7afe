// Operations on blocks of spectra and windows, planar f32, lengths multiples of 4.
import { half, reversed } from "./lanes";

/** dst = a × b */
export function multiply(dst: usize, a: usize, b: usize, n: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16) v128.store(dst + o, f32x4.mul(v128.load(a + o), v128.load(b + o)));
}

/** dst += a × b */
export function multiplyAdd(dst: usize, a: usize, b: usize, n: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16)
    v128.store(dst + o, f32x4.add(v128.load(dst + o), f32x4.mul(v128.load(a + o), v128.load(b + o))));
}

/** |L|² + |R|² for bins 0 … n/2 of a stereo pair transformed as one. */
export function pairPower(zr: usize, zi: usize, out: usize, n: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const ar = v128.load(zr + o), ai = v128.load(zi + o), br = reversed(v128.load(zr + m)), bi = reversed(v128.load(zi + m));
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

/** y = a transformed pair z by one gain for each bin 0 … n/2, on both sides of the spectrum; y may be z. */
export function pairGain(zr: usize, zi: usize, gains: usize, n: usize, yr: usize, yi: usize): void {
  const h = n >> 1, last = n << 2;
  for (let k: usize = 4; k < h; k += 4) {
    const o = k << 2, m = last - o - 12;
    const g = v128.load(gains + o), b = reversed(g);
    v128.store(yr + o, f32x4.mul(v128.load(zr + o), g));
    v128.store(yi + o, f32x4.mul(v128.load(zi + o), g));
    v128.store(yr + m, f32x4.mul(v128.load(zr + m), b));
    v128.store(yi + m, f32x4.mul(v128.load(zi + m), b));
  }
  for (let k: usize = 0; k < 4; k++) {
    const o = k << 2, g = load<f32>(gains + o);
    store<f32>(yr + o, load<f32>(zr + o) * g);
    store<f32>(yi + o, load<f32>(zi + o) * g);
    if (k == 0) continue;
    store<f32>(yr + last - o, load<f32>(zr + last - o) * g);
    store<f32>(yi + last - o, load<f32>(zi + last - o) * g);
  }
  const o = h << 2, g = load<f32>(gains + o);
  store<f32>(yr + o, load<f32>(zr + o) * g);
  store<f32>(yi + o, load<f32>(zi + o) * g);
}

// Convolution of partitions by right-angle circular convolution: H. J. Nussbaumer, "Fast Fourier Transform and Convolution Algorithms"
// (1982). A real block x of B frames is turned by e^(iπn/2B) and transformed as B complex points: products of such spectra are those of
// polynomials modulo X^B = i, so the real part of the result is the first half of the linear convolution and the imaginary part the second.
//
// Spectra lie in memory in the order in which they are multiplied: for each group of 16 bins all partitions one after the other, each 16
// real parts and 16 imaginary ones (f32). So the sum runs through memory without a jump.
const GROUP: usize = 16;
const BYTES: usize = 128;

/** re + i im = x e^(iπk/2n); turns: cos, then sin, n f32 each. */
export function turn(x: usize, re: usize, im: usize, n: usize, turns: usize): void {
  const row = n << 2;
  for (let o: usize = 0; o < row; o += 16) {
    const a = v128.load(x + o);
    v128.store(re + o, f32x4.mul(a, v128.load(turns + o)));
    v128.store(im + o, f32x4.mul(a, v128.load(turns + row + o)));
  }
}

/** Undoes `turn`; the real part and what the last block left go to out, the imaginary part is left in `rest` for the next one. */
export function turnBack(re: usize, im: usize, out: usize, rest: usize, n: usize, turns: usize): void {
  const row = n << 2;
  for (let o: usize = 0; o < row; o += 16) {
    const a = v128.load(re + o), b = v128.load(im + o), c = v128.load(turns + o), s = v128.load(turns + row + o);
    v128.store(out + o, f32x4.add(f32x4.add(f32x4.mul(a, c), f32x4.mul(b, s)), v128.load(rest + o)));
    v128.store(rest + o, f32x4.sub(f32x4.mul(b, c), f32x4.mul(a, s)));
  }
}

/** Puts a spectrum of n bins into place p of `count`. */
export function placeSpectrum(re: usize, im: usize, n: usize, spectra: usize, p: usize, count: usize): void {
  let to = spectra + p * BYTES;
  for (let o: usize = 0; o < n << 2; o += GROUP << 2) {
    for (let k: usize = 0; k < GROUP << 2; k += 16) {
      v128.store(to + k, v128.load(re + o + k));
      v128.store(to + k, v128.load(im + o + k), 64);
    }
    to += count * BYTES;
  }
}

/**
 * re + i im = Σ past[p] × response[p] over `count` partitions of spectra of `bins` bins, a multiple of 16. past is a ring, `first` the newest;
 * response lies in order.
 */
export function convolvePartitions(re: usize, im: usize, past: usize, response: usize, bins: usize, count: usize, first: usize): void {
  const row = count * BYTES, skip = first * BYTES, bytes = bins << 2;
  let y = response;
  for (let o: usize = 0; o < bytes; o += GROUP << 2) {
    const end = past + row;
    let x = past + skip;
    let r0 = f32x4.splat(0), r1 = r0, r2 = r0, r3 = r0, i0 = r0, i1 = r0, i2 = r0, i3 = r0;
    for (let p: usize = 0; p < count; p++) {
      let xr: v128, xi: v128, yr: v128, yi: v128;
      xr = v128.load(x, 0);
      xi = v128.load(x, 64);
      yr = v128.load(y, 0);
      yi = v128.load(y, 64);
      r0 = f32x4.add(r0, f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi)));
      i0 = f32x4.add(i0, f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr)));
      xr = v128.load(x, 16);
      xi = v128.load(x, 80);
      yr = v128.load(y, 16);
      yi = v128.load(y, 80);
      r1 = f32x4.add(r1, f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi)));
      i1 = f32x4.add(i1, f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr)));
      xr = v128.load(x, 32);
      xi = v128.load(x, 96);
      yr = v128.load(y, 32);
      yi = v128.load(y, 96);
      r2 = f32x4.add(r2, f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi)));
      i2 = f32x4.add(i2, f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr)));
      xr = v128.load(x, 48);
      xi = v128.load(x, 112);
      yr = v128.load(y, 48);
      yi = v128.load(y, 112);
      r3 = f32x4.add(r3, f32x4.sub(f32x4.mul(xr, yr), f32x4.mul(xi, yi)));
      i3 = f32x4.add(i3, f32x4.add(f32x4.mul(xr, yi), f32x4.mul(xi, yr)));
      x += BYTES;
      if (x == end) x = past;
      y += BYTES;
    }
    v128.store(re + o, r0, 0);
    v128.store(im + o, i0, 0);
    v128.store(re + o, r1, 16);
    v128.store(im + o, i1, 16);
    v128.store(re + o, r2, 32);
    v128.store(im + o, i2, 32);
    v128.store(re + o, r3, 48);
    v128.store(im + o, i3, 48);
    past += row;
  }
}

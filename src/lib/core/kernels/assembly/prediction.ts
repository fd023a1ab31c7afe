// Linear prediction, f64: correlation, errors and J. P. Burg's method (thesis, Stanford, 1975), two samples at a time.

// Burg's method takes the sound as if it had this share of its power in white noise: without, a sound that was made at a lower rate would have a
// model that explodes where it is used.
const NOISE: f64 = 1e-9;

// @ts-ignore: decorator
@inline function sum(x: v128): f64 {
  return f64x2.extract_lane(x, 0) + f64x2.extract_lane(x, 1);
}

/** out[k] = sum of x[i] x[i - k] for k up to `most`, a multiple of 4. Before x lie `most` zeros; n is even. */
export function autocorrelation(x: usize, n: usize, most: usize, out: usize): void {
  const end = x + (n << 3);
  let square = f64x2.splat(0);
  for (let p = x; p < end; p += 16) square = f64x2.add(square, f64x2.mul(v128.load(p), v128.load(p)));
  store<f64>(out, sum(square));
  for (let k: usize = 1; k <= most; k += 4) {
    let a = f64x2.splat(0), b = a, c = a, d = a;
    for (let p = x, q = x - ((k + 3) << 3); p < end; p += 16, q += 16) {
      const y = v128.load(p);
      a = f64x2.add(a, f64x2.mul(y, v128.load(q, 24)));
      b = f64x2.add(b, f64x2.mul(y, v128.load(q, 16)));
      c = f64x2.add(c, f64x2.mul(y, v128.load(q, 8)));
      d = f64x2.add(d, f64x2.mul(y, v128.load(q)));
    }
    const to = out + (k << 3);
    store<f64>(to, sum(a));
    store<f64>(to, sum(b), 8);
    store<f64>(to, sum(c), 16);
    store<f64>(to, sum(d), 24);
  }
}

/**
 * Magnitudes of the errors of n samples, a multiple of 4, as the `order` samples before each predict them and as those after it do.
 * a: order + 1 coefficients, the first of them 1.
 */
export function predictionErrors(x: usize, n: usize, a: usize, order: usize, past: usize, future: usize): void {
  for (let o: usize = 0; o < n << 3; o += 32) {
    let p = f64x2.splat(0), q = p, f = p, g = p;
    let back = x + o, on = back;
    for (let k: usize = 0; k <= order; k++, back -= 8, on += 8) {
      const c = v128.load64_splat(a + (k << 3));
      p = f64x2.add(p, f64x2.mul(c, v128.load(back)));
      q = f64x2.add(q, f64x2.mul(c, v128.load(back, 16)));
      f = f64x2.add(f, f64x2.mul(c, v128.load(on)));
      g = f64x2.add(g, f64x2.mul(c, v128.load(on, 16)));
    }
    v128.store(past + o, f64x2.abs(p));
    v128.store(past + o, f64x2.abs(q), 16);
    v128.store(future + o, f64x2.abs(f));
    v128.store(future + o, f64x2.abs(g), 16);
  }
}

/**
 * Reflection coefficients of the n samples at x, n even; returns how many there are: less than `order` where nothing is left to predict.
 * forward, backward: work space of n + 2 f64.
 */
export function burg(x: usize, n: usize, order: usize, reflections: usize, forward: usize, backward: usize): usize {
  memory.copy(forward, x, n << 3);
  memory.copy(backward, x, n << 3);
  let whole = f64x2.splat(0);
  for (let o: usize = 0; o < n << 3; o += 16) whole = f64x2.add(whole, f64x2.mul(v128.load(x + o), v128.load(x + o)));
  const noise = (sum(whole) * NOISE) / <f64>n;
  // backward[m] belongs to forward[m + k]: so both are worked on in place.
  for (let k: usize = 1; k <= order; k++) {
    const f = forward + (k << 3), length = (n - k) << 3, even = length & ~15;
    let top = f64x2.splat(0), bottom = top, other = top;
    for (let o: usize = 0; o < even; o += 16) {
      const u = v128.load(f + o), v = v128.load(backward + o);
      top = f64x2.add(top, f64x2.mul(u, v));
      bottom = f64x2.add(bottom, f64x2.mul(u, u));
      other = f64x2.add(other, f64x2.mul(v, v));
    }
    let dot = sum(top), power = sum(bottom) + sum(other) + noise * <f64>(n - k);
    if (even < length) {
      const u = load<f64>(f + even), v = load<f64>(backward + even);
      dot += u * v;
      power += u * u + v * v;
    }
    if (power < 1e-14) return k - 1;
    const reflection = (-2 * dot) / power, r = f64x2.splat(reflection);
    store<f64>(reflections + ((k - 1) << 3), reflection);
    // What lies behind the last pair is not read again.
    for (let o: usize = 0; o < length; o += 16) {
      const u = v128.load(f + o), v = v128.load(backward + o);
      v128.store(f + o, f64x2.add(u, f64x2.mul(r, v)));
      v128.store(backward + o, f64x2.add(v, f64x2.mul(r, u)));
    }
  }
  return order;
}

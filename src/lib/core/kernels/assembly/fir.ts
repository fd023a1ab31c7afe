// Finite impulse response on both channels. lines: count - 1 + n f32 each, the last count - 1 samples first.
// out[i] = Σ taps[k] line[i + k]: taps are given reversed. count is a multiple of 4.

// @ts-ignore: decorator
@inline function dot(line: usize, taps: usize, bytes: usize): f32 {
  let a = f32x4.splat(0), b = f32x4.splat(0);
  let k: usize = 0;
  for (; k + 32 <= bytes; k += 32) {
    a = f32x4.add(a, f32x4.mul(v128.load(line + k), v128.load(taps + k)));
    b = f32x4.add(b, f32x4.mul(v128.load(line + k, 16), v128.load(taps + k, 16)));
  }
  for (; k < bytes; k += 16) a = f32x4.add(a, f32x4.mul(v128.load(line + k), v128.load(taps + k)));
  a = f32x4.add(a, b);
  return f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3));
}

/** One channel: x is read, y written; line keeps the history. */
export function fir(x: usize, y: usize, n: usize, line: usize, taps: usize, count: usize): void {
  const past = (count - 1) << 2;
  memory.copy(line + past, x, n << 2);
  for (let i: usize = 0; i < n; i++) store<f32>(y + (i << 2), dot(line + (i << 2), taps, count << 2));
  memory.copy(line, line + (n << 2), past);
}

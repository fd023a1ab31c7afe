// Gains and sums on planar f32 blocks.

export function gain(p: usize, n: usize, g: f32): void {
  const k = f32x4.splat(g);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) v128.store(p + (i << 2), f32x4.mul(v128.load(p + (i << 2)), k));
  for (; i < n; i++) store<f32>(p + (i << 2), load<f32>(p + (i << 2)) * g);
}

/** dst += src × g */
export function addScaled(dst: usize, src: usize, n: usize, g: f32): void {
  const k = f32x4.splat(g);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4)
    v128.store(dst + (i << 2), f32x4.add(v128.load(dst + (i << 2)), f32x4.mul(v128.load(src + (i << 2)), k)));
  for (; i < n; i++) store<f32>(dst + (i << 2), load<f32>(dst + (i << 2)) + load<f32>(src + (i << 2)) * g);
}

/** dst += src × (from + step × i): a gain that moves. */
export function addRamped(dst: usize, src: usize, n: usize, from: f32, step: f32): void {
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    store<f32>(dst + o, load<f32>(dst + o) + load<f32>(src + o) * (from + step * <f32>i));
  }
}

/** Largest |a - b| of n samples. */
export function peakOfDifference(a: usize, b: usize, n: usize): f32 {
  let most = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4)
    most = f32x4.max(most, f32x4.abs(f32x4.sub(v128.load(a + (i << 2)), v128.load(b + (i << 2)))));
  let m = max(max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)), max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)));
  for (; i < n; i++) m = max(m, abs(load<f32>(a + (i << 2)) - load<f32>(b + (i << 2))));
  return m;
}

export function clear(p: usize, n: usize): void {
  memory.fill(p, 0, n << 2);
}

export function copy(dst: usize, src: usize, n: usize): void {
  memory.copy(dst, src, n << 2);
}

/** Turns a block round in place. */
export function reverse(p: usize, n: usize): void {
  for (let i: usize = 0, k: usize = n - 1; i < n >> 1; i++, k--) {
    const a = load<f32>(p + (i << 2)), b = load<f32>(p + (k << 2));
    store<f32>(p + (i << 2), b);
    store<f32>(p + (k << 2), a);
  }
}

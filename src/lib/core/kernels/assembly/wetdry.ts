// A plain delay, and the mixing of a delayed dry signal with a treated one.

/** Delays a pair by `size` frames in place. line: size × (f32, f32). index: i32, kept between calls. */
export function delayPair(l: usize, r: usize, n: usize, line: usize, size: i32, index: usize): void {
  let w = load<i32>(index);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2, slot = line + (<usize>w << 3);
    const a = load<f32>(slot), b = load<f32>(slot, 4);
    store<f32>(slot, load<f32>(l + o));
    store<f32>(slot, load<f32>(r + o), 4);
    store<f32>(l + o, a);
    store<f32>(r + o, b);
    w++;
    if (w == size) w = 0;
  }
  store<i32>(index, w);
}

/** wet = dry + (wet - dry) × share */
export function wetDry(wet: usize, dry: usize, n: usize, share: f32): void {
  const k = f32x4.splat(share);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) {
    const d = v128.load(dry + (i << 2));
    v128.store(wet + (i << 2), f32x4.add(d, f32x4.mul(f32x4.sub(v128.load(wet + (i << 2)), d), k)));
  }
  for (; i < n; i++) {
    const d = load<f32>(dry + (i << 2));
    store<f32>(wet + (i << 2), d + (load<f32>(wet + (i << 2)) - d) * share);
  }
}

/** Left and right by a matrix: l' = a l + b r, r' = c l + d r. */
export function matrix(l: usize, r: usize, n: usize, a: f32, b: f32, c: f32, d: f32): void {
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) {
    const o = i << 2;
    const x = v128.load(l + o), y = v128.load(r + o);
    v128.store(l + o, f32x4.add(f32x4.mul(f32x4.splat(a), x), f32x4.mul(f32x4.splat(b), y)));
    v128.store(r + o, f32x4.add(f32x4.mul(f32x4.splat(c), x), f32x4.mul(f32x4.splat(d), y)));
  }
  for (; i < n; i++) {
    const o = i << 2;
    const x = load<f32>(l + o), y = load<f32>(r + o);
    store<f32>(l + o, a * x + b * y);
    store<f32>(r + o, c * x + d * y);
  }
}

/** Adds a constant. */
export function offset(p: usize, n: usize, value: f32): void {
  for (let i: usize = 0; i < n; i++) store<f32>(p + (i << 2), load<f32>(p + (i << 2)) + value);
}

/** Sum, f64. */
export function sum(p: usize, n: usize): f64 {
  let s: f64 = 0;
  for (let i: usize = 0; i < n; i++) s += <f64>load<f32>(p + (i << 2));
  return s;
}

/** Number of samples at or above a level in magnitude within runs of at least `least`; run: i32, the run going on. */
export function clippedRuns(p: usize, n: usize, level: f32, least: i32, run: usize): i32 {
  let length = load<i32>(run);
  let count = 0;
  for (let i: usize = 0; i < n; i++) {
    if (abs(load<f32>(p + (i << 2))) >= level) {
      length++;
      if (length == least) count += least;
      else if (length > least) count++;
    } else length = 0;
  }
  store<i32>(run, length);
  return count;
}

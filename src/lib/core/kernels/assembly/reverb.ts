// Feedback delay network of 16 lines with a Hadamard matrix: J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial
// reverberators", 90th AES Convention (1991). Before it: pre-delay and allpass diffusers (M. R. Schroeder, JAES 10, 1962). Wet signal only.
//
// lines: 16 × (i32 length, i32 offset into `memory` in f32). gains: 16 × f32 gain, then 16 × f32 pole (both at + 64).
// diffusers: count × (i32 length, i32 offset), left and right alternately. params (f64): 0 diffusion, 1 number of diffusers a side,
//   2 pre-delay (samples), 3 pre-delay offset, 4 pre-delay length.
// state: i32 × 16 write index of lines, i32 × 16 write index of diffusers, i32 write index of the pre-delay at 128; 16 × f32 low-pass at 192.

const QUIET: f32 = 1e-20;

// @ts-ignore: decorator
@inline function quiet(x: v128): v128 {
  return v128.bitselect(x, f32x4.splat(0), f32x4.gt(f32x4.abs(x), f32x4.splat(QUIET)));
}

/** Hadamard of order 4 inside a vector, not scaled. */
// @ts-ignore: decorator
@inline function four(x: v128): v128 {
  const a = f32x4.add(f32x4.mul(x, f32x4(1, -1, 1, -1)), i32x4.shuffle(x, x, 1, 0, 3, 2));
  return f32x4.add(f32x4.mul(a, f32x4(1, 1, -1, -1)), i32x4.shuffle(a, a, 2, 3, 0, 1));
}

// @ts-ignore: decorator
@inline function diffuse(x: f32, k: usize, diffusers: usize, indices: usize, memory: usize, g: f32): f32 {
  const length = load<i32>(diffusers + (k << 3)), base = memory + (<usize>load<i32>(diffusers + (k << 3), 4) << 2);
  let w = load<i32>(indices + (k << 2));
  const old = load<f32>(base + (<usize>w << 2));
  let v = x + g * old;
  if (abs(v) < QUIET) v = 0;
  store<f32>(base + (<usize>w << 2), v);
  w++;
  if (w == length) w = 0;
  store<i32>(indices + (k << 2), w);
  return old - g * v;
}

// @ts-ignore: decorator
@inline function tap(k: usize, lines: usize, state: usize, memory: usize): usize {
  return memory + (<usize>(load<i32>(lines + (k << 3), 4) + load<i32>(state + (k << 2))) << 2);
}

// @ts-ignore: decorator
@inline function gather(k: usize, lines: usize, state: usize, memory: usize): v128 {
  let v = f32x4.splat(load<f32>(tap(k, lines, state, memory)));
  v = f32x4.replace_lane(v, 1, load<f32>(tap(k + 1, lines, state, memory)));
  v = f32x4.replace_lane(v, 2, load<f32>(tap(k + 2, lines, state, memory)));
  return f32x4.replace_lane(v, 3, load<f32>(tap(k + 3, lines, state, memory)));
}

// @ts-ignore: decorator
@inline function put(k: usize, value: f32, lines: usize, state: usize, memory: usize): void {
  store<f32>(tap(k, lines, state, memory), value);
  let w = load<i32>(state + (k << 2)) + 1;
  if (w == load<i32>(lines + (k << 3))) w = 0;
  store<i32>(state + (k << 2), w);
}

// @ts-ignore: decorator
@inline function scatter(k: usize, v: v128, lines: usize, state: usize, memory: usize): void {
  put(k, f32x4.extract_lane(v, 0), lines, state, memory);
  put(k + 1, f32x4.extract_lane(v, 1), lines, state, memory);
  put(k + 2, f32x4.extract_lane(v, 2), lines, state, memory);
  put(k + 3, f32x4.extract_lane(v, 3), lines, state, memory);
}

// @ts-ignore: decorator
@inline function across(x: v128): f32 {
  return f32x4.extract_lane(x, 0) + f32x4.extract_lane(x, 1) + (f32x4.extract_lane(x, 2) + f32x4.extract_lane(x, 3));
}

export function reverb(l: usize, r: usize, n: usize, params: usize, lines: usize, gains: usize, diffusers: usize, state: usize, memory: usize): void {
  const diffusion = <f32>load<f64>(params), stages = <usize>load<f64>(params, 8);
  const preDelay = <i32>load<f64>(params, 16), preBase = memory + (<usize>load<f64>(params, 24) << 2), preLength = <i32>load<f64>(params, 32);
  const indices = state + 64;
  const g0 = v128.load(gains), g1 = v128.load(gains, 16), g2 = v128.load(gains, 32), g3 = v128.load(gains, 48);
  const p0 = v128.load(gains, 64), p1 = v128.load(gains, 80), p2 = v128.load(gains, 96), p3 = v128.load(gains, 112);
  let f0 = v128.load(state, 192), f1 = v128.load(state, 208), f2 = v128.load(state, 224), f3 = v128.load(state, 240);
  const half = f32x4.splat(0.25);
  // Left feeds the even lines, right the odd ones.
  const evens = f32x4(1, 0, -1, 0), odds = f32x4(0, 1, 0, -1);
  // Two orthogonal rows of signs for the outputs.
  const outL = f32x4(1, 1, -1, -1), outR = f32x4(1, -1, -1, 1);
  let pw = load<i32>(state, 128);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const slot = preBase + (<usize>pw << 3);
    store<f32>(slot, load<f32>(l + o));
    store<f32>(slot, load<f32>(r + o), 4);
    let q = pw - preDelay;
    if (q < 0) q += preLength;
    pw++;
    if (pw == preLength) pw = 0;
    const from = preBase + (<usize>q << 3);
    let x = load<f32>(from), y = load<f32>(from, 4);
    for (let k: usize = 0; k < stages; k++) {
      x = diffuse(x, 2 * k, diffusers, indices, memory, diffusion);
      y = diffuse(y, 2 * k + 1, diffusers, indices, memory, diffusion);
    }
    // Out of the lines, through their low-passes.
    f0 = quiet(f32x4.add(f32x4.mul(gather(0, lines, state, memory), f32x4.sub(f32x4.splat(1), p0)), f32x4.mul(f0, p0)));
    f1 = quiet(f32x4.add(f32x4.mul(gather(4, lines, state, memory), f32x4.sub(f32x4.splat(1), p1)), f32x4.mul(f1, p1)));
    f2 = quiet(f32x4.add(f32x4.mul(gather(8, lines, state, memory), f32x4.sub(f32x4.splat(1), p2)), f32x4.mul(f2, p2)));
    f3 = quiet(f32x4.add(f32x4.mul(gather(12, lines, state, memory), f32x4.sub(f32x4.splat(1), p3)), f32x4.mul(f3, p3)));
    const a0 = f32x4.mul(f0, g0), a1 = f32x4.mul(f1, g1), a2 = f32x4.mul(f2, g2), a3 = f32x4.mul(f3, g3);
    const wl = across(f32x4.mul(outL, f32x4.add(f32x4.sub(a0, a1), f32x4.sub(a2, a3))));
    const wr = across(f32x4.mul(outR, f32x4.add(f32x4.add(a0, a1), f32x4.sub(f32x4.splat(0), f32x4.add(a2, a3)))));
    // Hadamard of order 16.
    const h0 = four(a0), h1 = four(a1), h2 = four(a2), h3 = four(a3);
    const s0 = f32x4.add(h0, h1), d0 = f32x4.sub(h0, h1), s1 = f32x4.add(h2, h3), d1 = f32x4.sub(h2, h3);
    const input = f32x4.add(f32x4.mul(evens, f32x4.splat(x)), f32x4.mul(odds, f32x4.splat(y)));
    const other = f32x4.add(f32x4.mul(evens, f32x4.splat(x)), f32x4.mul(odds, f32x4.splat(-y)));
    scatter(0, f32x4.add(f32x4.mul(f32x4.add(s0, s1), half), input), lines, state, memory);
    scatter(4, f32x4.add(f32x4.mul(f32x4.add(d0, d1), half), other), lines, state, memory);
    scatter(8, f32x4.sub(f32x4.mul(f32x4.sub(s0, s1), half), input), lines, state, memory);
    scatter(12, f32x4.add(f32x4.mul(f32x4.sub(d0, d1), half), input), lines, state, memory);
    store<f32>(l + o, wl);
    store<f32>(r + o, wr);
  }
  store<i32>(state, pw, 128);
  v128.store(state, f0, 192);
  v128.store(state, f1, 208);
  v128.store(state, f2, 224);
  v128.store(state, f3, 240);
}

// Feedback delay network of 16 lines with a Hadamard matrix: J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial
// reverberators", 90th AES Convention (1991). Before it: pre-delay and allpass diffusers (M. R. Schroeder, JAES 10, 1962). Wet signal only.
//
// rings: 26 + 1 × (i32 length, i32 offset into `sound` in f32): 16 lines, 10 diffusers (left and right alternately), the pre-delay of pairs.
// gains: 16 × f32 gain, then 16 × f32 pole. params (f64): 0 diffusion, 1 pre-delay (samples).
// state: i32 × 27 write index of each ring; 16 × f32 low-pass at 128; i32 × 27 addresses at 192, for a stretch without wrapping.
const QUIET: f32 = 1e-20;
const RINGS: i32 = 26;

// @ts-ignore: decorator
@inline function quiet(x: v128): v128 {
  return v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(QUIET)));
}

/** Hadamard of order 4 inside a vector, not scaled. */
// @ts-ignore: decorator
@inline function four(x: v128): v128 {
  const a = f32x4.add(v128.xor(x, i32x4(0, 0x80000000, 0, 0x80000000)), i32x4.shuffle(x, x, 1, 0, 3, 2));
  return f32x4.add(v128.xor(a, i32x4(0, 0, 0x80000000, 0x80000000)), i32x4.shuffle(a, a, 2, 3, 0, 1));
}

// Left in lane 0, right in lane 1 of x; places: the address of a pair of rings' addresses.
// @ts-ignore: decorator
@inline function diffuse(x: v128, places: usize, o: usize, g: v128): v128 {
  const l = <usize>load<u32>(places) + o, r = <usize>load<u32>(places, 4) + o;
  const old = v128.load32_lane(r, v128.load32_zero(l), 1);
  const v = quiet(f32x4.add(x, f32x4.mul(g, old)));
  v128.store32_lane(l, v, 0);
  v128.store32_lane(r, v, 1);
  return f32x4.sub(old, f32x4.mul(g, v));
}

// @ts-ignore: decorator
@inline function gather(places: usize, o: usize): v128 {
  let v = v128.load32_zero(<usize>load<u32>(places) + o);
  v = v128.load32_lane(<usize>load<u32>(places, 4) + o, v, 1);
  v = v128.load32_lane(<usize>load<u32>(places, 8) + o, v, 2);
  return v128.load32_lane(<usize>load<u32>(places, 12) + o, v, 3);
}

// @ts-ignore: decorator
@inline function scatter(places: usize, o: usize, v: v128): void {
  v128.store32_lane(<usize>load<u32>(places) + o, v, 0);
  v128.store32_lane(<usize>load<u32>(places, 4) + o, v, 1);
  v128.store32_lane(<usize>load<u32>(places, 8) + o, v, 2);
  v128.store32_lane(<usize>load<u32>(places, 12) + o, v, 3);
}

// @ts-ignore: decorator
@inline function across(x: v128): f32 {
  const y = f32x4.add(x, i32x4.shuffle(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(y, 0) + f32x4.extract_lane(y, 1);
}

/** n frames in which no ring wraps. */
function stretch(l: usize, r: usize, n: usize, g: v128, gains: usize, state: usize, preFrom: usize): void {
  const places = state + 192, diffusers = places + 64;
  const g0 = v128.load(gains), g1 = v128.load(gains, 16), g2 = v128.load(gains, 32), g3 = v128.load(gains, 48);
  const p0 = v128.load(gains, 64), p1 = v128.load(gains, 80), p2 = v128.load(gains, 96), p3 = v128.load(gains, 112);
  let f0 = v128.load(state, 128), f1 = v128.load(state, 144), f2 = v128.load(state, 160), f3 = v128.load(state, 176);
  const half = f32x4.splat(0.25);
  const negate = i32x4.splat(0x80000000);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    let x = v128.load64_zero(preFrom + (i << 3));
    for (let k: usize = 0; k < 40; k += 8) x = diffuse(x, diffusers + k, o, g);
    // Out of the lines, through their low-passes: f = in + (f - in) pole.
    const i0 = gather(places, o), i1 = gather(places + 16, o), i2 = gather(places + 32, o), i3 = gather(places + 48, o);
    f0 = quiet(f32x4.add(i0, f32x4.mul(f32x4.sub(f0, i0), p0)));
    f1 = quiet(f32x4.add(i1, f32x4.mul(f32x4.sub(f1, i1), p1)));
    f2 = quiet(f32x4.add(i2, f32x4.mul(f32x4.sub(f2, i2), p2)));
    f3 = quiet(f32x4.add(i3, f32x4.mul(f32x4.sub(f3, i3), p3)));
    const a0 = f32x4.mul(f0, g0), a1 = f32x4.mul(f1, g1), a2 = f32x4.mul(f2, g2), a3 = f32x4.mul(f3, g3);
    // Two orthogonal rows of signs for the outputs.
    const sl = f32x4.add(f32x4.sub(a0, a1), f32x4.sub(a2, a3)), sr = f32x4.sub(f32x4.add(a0, a1), f32x4.add(a2, a3));
    store<f32>(l + o, across(v128.xor(sl, i32x4(0, 0, 0x80000000, 0x80000000))));
    store<f32>(r + o, across(v128.xor(sr, i32x4(0, 0x80000000, 0x80000000, 0))));
    // Hadamard of order 16; left feeds the even lines, right the odd ones.
    const h0 = four(a0), h1 = four(a1), h2 = four(a2), h3 = four(a3);
    const s0 = f32x4.add(h0, h1), d0 = f32x4.sub(h0, h1), s1 = f32x4.add(h2, h3), d1 = f32x4.sub(h2, h3);
    const pair = i32x4.shuffle(x, x, 0, 1, 0, 1);
    const input = v128.xor(pair, i32x4(0, 0, 0x80000000, 0x80000000)), other = v128.xor(pair, i32x4(0, 0x80000000, 0x80000000, 0));
    scatter(places, o, f32x4.add(f32x4.mul(f32x4.add(s0, s1), half), input));
    scatter(places + 16, o, f32x4.add(f32x4.mul(f32x4.add(d0, d1), half), other));
    scatter(places + 32, o, f32x4.add(f32x4.mul(f32x4.sub(s0, s1), half), v128.xor(input, negate)));
    scatter(places + 48, o, f32x4.add(f32x4.mul(f32x4.sub(d0, d1), half), input));
  }
  v128.store(state, f0, 128);
  v128.store(state, f1, 144);
  v128.store(state, f2, 160);
  v128.store(state, f3, 176);
}

export function reverb(l: usize, r: usize, n: i32, params: usize, rings: usize, gains: usize, state: usize, sound: usize): void {
  const g = f32x4.splat(<f32>load<f64>(params)), preDelay = <i32>load<f64>(params, 8);
  const preLength = load<i32>(rings + (RINGS << 3)), preBase = sound + (<usize>load<i32>(rings + (RINGS << 3), 4) << 2);
  const indices = state, places = state + 192;
  for (let done = 0; done < n;) {
    let run = n - done;
    for (let k = 0; k < RINGS; k++) {
      const w = load<i32>(indices + (k << 2));
      run = min(run, load<i32>(rings + (k << 3)) - w);
      store<u32>(places + (k << 2), <u32>(sound + (<usize>(load<i32>(rings + (k << 3), 4) + w) << 2)));
    }
    const pw = load<i32>(indices + (RINGS << 2));
    let q = pw - preDelay;
    if (q < 0) q += preLength;
    run = min(run, min(preLength - pw, preLength - q));
    const from = <usize>done << 2;
    for (let i: usize = 0; i < <usize>run; i++) {
      const slot = preBase + (<usize>pw << 3) + (i << 3);
      store<f32>(slot, load<f32>(l + from + (i << 2)));
      store<f32>(slot, load<f32>(r + from + (i << 2)), 4);
    }
    stretch(l + from, r + from, <usize>run, g, gains, state, preBase + (<usize>q << 3));
    for (let k = 0; k <= RINGS; k++) {
      let w = load<i32>(indices + (k << 2)) + run;
      if (w == load<i32>(rings + (k << 3))) w = 0;
      store<i32>(indices + (k << 2), w);
    }
    done += run;
  }
}

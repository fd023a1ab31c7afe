// Voices of a delay that a sine moves: chorus and flanger. Wet signal only.
// Reading between samples: 12-tap windowed sinc, the nearest of 8192 phases.
//
// params (f64): 0 delay (samples), 1 depth (samples), 2 feedback, 3 voices, 4 cos, 5 sin of the sine's step for one sample,
//   6 cos, 7 sin of the phase between voices, 8 cos, 9 sin of the phase between left and right, 10 ring size (power of two)
// table: 8193 rows of 12 f32. state (f64): 0 write index, 1 cos, 2 sin of the phase;
// state + 64: left ring, right ring, each 2 × size f32 (written twice, so that any stretch is contiguous).
const HALF: i32 = 6;
const QUIET: f32 = 1e-20;

// Delays are taken as fixed-point numbers of 17 bits behind the point: adding this makes them the low bits of a double.
const SHIFT: i32 = 17;
const MAGIC: f64 = 6755399441055744.0 / 131072.0;

// Adds a voice's four partial sums.
// @ts-ignore: decorator
@inline function voice(sum: v128, ring: usize, w: i32, mask: i32, delay: f64, table: usize): v128 {
  const fixed = <i32>reinterpret<i64>(delay + MAGIC);
  // Rounded to the nearest of 8192 phases.
  const part = ((1 << SHIFT) - (fixed & ((1 << SHIFT) - 1)) + 8) >> 4;
  const from = ring + (<usize>((w - (fixed >> SHIFT) - HALF) & mask) << 2);
  const c = table + <usize>part * 48;
  return f32x4.add(
    f32x4.add(sum, f32x4.mul(v128.load(c), v128.load(from))),
    f32x4.add(f32x4.mul(v128.load(c, 16), v128.load(from, 16)), f32x4.mul(v128.load(c, 32), v128.load(from, 32))),
  );
}

// @ts-ignore: decorator
@inline function across(x: v128): f32 {
  const y = f32x4.add(x, i32x4.shuffle(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(y, 0) + f32x4.extract_lane(y, 1);
}

export function modulatedDelay(l: usize, r: usize, n: usize, params: usize, state: usize, table: usize): void {
  const delay = load<f64>(params), depth = load<f64>(params, 8), feedback = <f32>load<f64>(params, 16), voices = <i32>load<f64>(params, 24);
  const stepC = load<f64>(params, 32), stepS = load<f64>(params, 40), voiceC = load<f64>(params, 48), voiceS = load<f64>(params, 56);
  const sideC = load<f64>(params, 64), sideS = load<f64>(params, 72), size = <i32>load<f64>(params, 80);
  const left = state + 64, right = left + (<usize>size << 3), mask = size - 1;
  let w = <i32>load<f64>(state), c = load<f64>(state, 8), s = load<f64>(state, 16);
  const scale: f32 = 1.0 / <f32>voices;
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    let vc = c, vs = s;
    let sumL = f32x4.splat(0), sumR = f32x4.splat(0);
    for (let v = 0; v < voices; v++) {
      sumL = voice(sumL, left, w, mask, delay + depth * vs, table);
      sumR = voice(sumR, right, w, mask, delay + depth * (vs * sideC + vc * sideS), table);
      const nc = vc * voiceC - vs * voiceS;
      vs = vs * voiceC + vc * voiceS;
      vc = nc;
    }
    const outL = across(sumL) * scale, outR = across(sumR) * scale;
    let inL = load<f32>(l + o) + outL * feedback, inR = load<f32>(r + o) + outR * feedback;
    if (abs(inL) < QUIET) inL = 0;
    if (abs(inR) < QUIET) inR = 0;
    const slot = <usize>w << 2, twin = slot + (<usize>size << 2);
    store<f32>(left + slot, inL);
    store<f32>(left + twin, inL);
    store<f32>(right + slot, inR);
    store<f32>(right + twin, inR);
    store<f32>(l + o, outL);
    store<f32>(r + o, outR);
    w = (w + 1) & mask;
    const nc = c * stepC - s * stepS;
    s = s * stepC + c * stepS;
    c = nc;
    if (w == 0) {
      // Keeps the rotating pointer at length 1.
      const fix = 1.5 - 0.5 * (c * c + s * s);
      c *= fix;
      s *= fix;
    }
  }
  store<f64>(state, <f64>w);
  store<f64>(state, c, 8);
  store<f64>(state, s, 16);
}

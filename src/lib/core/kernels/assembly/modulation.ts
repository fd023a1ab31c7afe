// Voices of a delay that a sine moves: chorus and flanger. Wet signal only.
// Reading between samples: 16-tap windowed sinc, 512 phases, straight between two of them.
//
// params (f64): 0 delay (samples), 1 depth (samples), 2 feedback, 3 voices, 4 cos, 5 sin of the sine's step for one sample,
//   6 cos, 7 sin of the phase between voices, 8 cos, 9 sin of the phase between left and right, 10 ring size (power of two)
// table: 513 rows of 16 f32. state (f64): 0 write index, 1 cos, 2 sin of the phase; state + 64: left ring, right ring, each 2 × size f32
// (written twice, so that any stretch is contiguous).
const TAPS: i32 = 16;
const PHASES: f64 = 512;
const QUIET: f32 = 1e-20;

// @ts-ignore: decorator
@inline function readAt(ring: usize, w: i32, size: i32, delay: f64, table: usize): f64 {
  const whole = Math.floor(delay);
  const part = (1.0 - (delay - whole)) * PHASES;
  const row = Math.floor(part);
  const t = f32x4.splat(<f32>(part - row));
  const at = (w - <i32>whole - 1 - TAPS / 2 + 1) & (size - 1);
  const from = ring + (<usize>at << 2);
  const c = table + (<usize>row << 6);
  let sum = f32x4.splat(0);
  for (let k: usize = 0; k < 64; k += 16) {
    const a = v128.load(c + k);
    const taps = f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(c + k, 64), a), t));
    sum = f32x4.add(sum, f32x4.mul(taps, v128.load(from + k)));
  }
  return <f64>(f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)));
}

export function modulatedDelay(l: usize, r: usize, n: usize, params: usize, state: usize, table: usize): void {
  const delay = load<f64>(params), depth = load<f64>(params, 8), feedback = load<f64>(params, 16), voices = <i32>load<f64>(params, 24);
  const stepC = load<f64>(params, 32), stepS = load<f64>(params, 40), voiceC = load<f64>(params, 48), voiceS = load<f64>(params, 56);
  const sideC = load<f64>(params, 64), sideS = load<f64>(params, 72), size = <i32>load<f64>(params, 80);
  const left = state + 64, right = left + (<usize>size << 3);
  let w = <i32>load<f64>(state), c = load<f64>(state, 8), s = load<f64>(state, 16);
  const scale = 1.0 / <f64>voices;
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    let vc = c, vs = s;
    let outL: f64 = 0, outR: f64 = 0;
    for (let v = 0; v < voices; v++) {
      outL += readAt(left, w, size, delay + depth * vs, table);
      outR += readAt(right, w, size, delay + depth * (vs * sideC + vc * sideS), table);
      const nc = vc * voiceC - vs * voiceS;
      vs = vs * voiceC + vc * voiceS;
      vc = nc;
    }
    outL *= scale;
    outR *= scale;
    let inL = <f32>(<f64>load<f32>(l + o) + outL * feedback), inR = <f32>(<f64>load<f32>(r + o) + outR * feedback);
    if (abs(inL) < QUIET) inL = 0;
    if (abs(inR) < QUIET) inR = 0;
    const slot = <usize>w << 2, twin = slot + (<usize>size << 2);
    store<f32>(left + slot, inL);
    store<f32>(left + twin, inL);
    store<f32>(right + slot, inR);
    store<f32>(right + twin, inR);
    store<f32>(l + o, <f32>outL);
    store<f32>(r + o, <f32>outR);
    w = (w + 1) & (size - 1);
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

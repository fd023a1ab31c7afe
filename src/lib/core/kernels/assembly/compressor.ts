// Feed-forward compressor, gain computed and smoothed in decibels.
// Structure: Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", JAES 60 (2012), section 2.
//
// params (f64): 0 threshold dB, 1 slope 1/ratio-1 (<= 0), 2 knee dB, 3 attack pole, 4 release pole,
//   5 make-up dB, 6 hold samples, 7 rms (0 peak, 1 rms), 8 rms pole, 9 look-ahead samples, 10 link (0..1),
//   11 wet (0..1), 12 detector release pole, 13 delay line length (fixed, so that latency is constant)
// state (f64): 0 gain L dB, 1 gain R dB, 2 held L, 3 held R, 4 hold left L, 5 hold left R, 6 mean square L,
//   7 mean square R, 8 write index; state + 128: delay line,
//   `size` frames of f32 left, right, side left, side right.
// side: the side-chain signal (may be the input itself).

import { fastExp2, fastLog2 } from "./fast";

const DB: f64 = 6.020599913279624; // of a factor of two
const TINY: f64 = 1e-30;

// @ts-ignore: decorator
@inline function curve(level: f64, threshold: f64, slope: f64, knee: f64): f64 {
  const over = level - threshold;
  if (2.0 * over <= -knee) return 0.0;
  if (2.0 * over < knee) {
    const d = over + knee * 0.5;
    return slope * d * d / (2.0 * knee);
  }
  return slope * over;
}

// @ts-ignore: decorator
@inline function detect(x: f64, state: usize, k: usize, params: usize): f64 {
  const a = Math.abs(x);
  if (load<f64>(params, 56) != 0) {
    const pole = load<f64>(params, 64);
    let ms = load<f64>(state + (k << 3), 48) * pole + x * x * (1.0 - pole);
    if (ms < TINY) ms = 0;
    store<f64>(state + (k << 3), ms, 48);
    return Math.sqrt(ms);
  }
  let held = load<f64>(state + (k << 3), 16);
  let left = load<f64>(state + (k << 3), 32);
  if (a >= held) {
    held = a;
    left = load<f64>(params, 48);
  } else if (left > 0) {
    left -= 1.0;
  } else {
    held = Math.max(a, held * load<f64>(params, 96));
    if (held < TINY) held = 0;
  }
  store<f64>(state + (k << 3), held, 16);
  store<f64>(state + (k << 3), left, 32);
  return held;
}

// @ts-ignore: decorator
@inline function smooth(target: f64, now: f64, attack: f64, release: f64): f64 {
  const pole = target < now ? attack : release;
  return target + (now - target) * pole;
}

/** Static curve: gain in dB for a level in dB. */
export function compressorCurve(level: f64, threshold: f64, slope: f64, knee: f64): f64 {
  return curve(level, threshold, slope, knee);
}

export function compressor(l: usize, r: usize, sideL: usize, sideR: usize, n: usize, params: usize, state: usize): void {
  const threshold = load<f64>(params), slope = load<f64>(params, 8), knee = load<f64>(params, 16);
  const attack = load<f64>(params, 24), release = load<f64>(params, 32), makeup = load<f64>(params, 40);
  const ahead = <i32>load<f64>(params, 72), link = load<f64>(params, 80), wet = load<f64>(params, 88);
  const size = <i32>load<f64>(params, 104);
  // Below this level the curve is flat: no logarithm needed.
  const floor = fastExp2((threshold - knee * 0.5) / DB);
  const line = state + 128;
  let g0 = load<f64>(state), g1 = load<f64>(state, 8);
  let w = <i32>load<f64>(state, 64);
  const linked = link == 1.0;
  const flat = fastExp2(makeup / DB);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    // Delay line of signal and side-chain: the signal leaves it after `size - 1` samples whatever the look-ahead,
    // the detector hears it `ahead` samples sooner. So latency never changes.
    const here = line + (<usize>w << 4);
    store<f32>(here, load<f32>(l + o));
    store<f32>(here, load<f32>(r + o), 4);
    store<f32>(here, load<f32>(sideL + o), 8);
    store<f32>(here, load<f32>(sideR + o), 12);
    let q = w + 1;
    if (q >= size) q = 0;
    let s = q + ahead;
    if (s >= size) s -= size;
    const side = line + (<usize>s << 4);
    const e0 = detect(<f64>load<f32>(side, 8), state, 0, params);
    const e1 = detect(<f64>load<f32>(side, 12), state, 1, params);
    const top = Math.max(e0, e1);
    const d0 = e0 + (top - e0) * link, d1 = e1 + (top - e1) * link;
    const c0 = d0 > floor ? curve(fastLog2(d0) * DB, threshold, slope, knee) : 0.0;
    const c1 = linked || d1 == d0 ? c0 : d1 > floor ? curve(fastLog2(d1) * DB, threshold, slope, knee) : 0.0;
    g0 = smooth(c0, g0, attack, release);
    if (g0 > -1e-9) g0 = 0;
    if (linked) g1 = g0;
    else {
      g1 = smooth(c1, g1, attack, release);
      if (g1 > -1e-9) g1 = 0;
    }
    const signal = line + (<usize>q << 4);
    const x0 = <f64>load<f32>(signal), x1 = <f64>load<f32>(signal, 4);
    const k0 = g0 == 0 ? flat : fastExp2((g0 + makeup) / DB);
    const k1 = g1 == g0 ? k0 : g1 == 0 ? flat : fastExp2((g1 + makeup) / DB);
    store<f32>(l + o, <f32>(x0 * (1.0 + wet * (k0 - 1.0))));
    store<f32>(r + o, <f32>(x1 * (1.0 + wet * (k1 - 1.0))));
    w++;
    if (w == size) w = 0;
  }
  store<f64>(state, g0);
  store<f64>(state, g1, 8);
  store<f64>(state, <f64>w, 64);
}

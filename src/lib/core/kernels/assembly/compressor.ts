// Feed-forward compressor, gain computed and smoothed in decibels.
// Structure: Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", JAES 60 (2012), section 2.
//
// params (f64): 0 threshold dB, 1 slope 1/ratio-1 (<= 0), 2 knee dB, 3 attack pole, 4 release pole,
//   5 make-up dB, 6 hold samples, 7 rms (0 peak, 1 rms), 8 rms pole, 9 look-ahead samples, 10 link (0..1),
//   11 wet (0..1), 12 detector release pole, 13 delay (samples, fixed, so that latency is constant)
// state (f64): 0 gain L dB, 1 gain R dB, 2 held L, 3 held R, 4 hold left L, 5 hold left R, 6 mean square L, 7 mean square R;
//   state + 64: four lines of delay + 512 f32: left, right, side left, side right. Each begins with the last `delay` samples; behind them room for 520 f32.
// side: the side-chain signal (may be the input itself). n ≤ 512.
import { fastExp2, fastLog2 } from "./fast";
import { applyGains, exp2x4, largerMagnitude, log2x4 } from "./gains";

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

/** Static curve: gain in dB for a level in dB. */
export function compressorCurve(level: f64, threshold: f64, slope: f64, knee: f64): f64 {
  return curve(level, threshold, slope, knee);
}

// @ts-ignore: decorator
@inline function gainAt(level: f64, floor: f64, threshold: f64, slope: f64, knee: f64): f64 {
  return level > floor ? curve(fastLog2(level) * DB, threshold, slope, knee) : 0.0;
}

// @ts-ignore: decorator
@inline function smooth(target: f64, now: f64, attack: f64, release: f64): f64 {
  const g = target + (now - target) * (target < now ? attack : release);
  return g > -1e-9 ? 0.0 : g;
}

/**
 * Both channels turned by one gain, from the louder of them: the usual case. In passes over the block: levels, detector, curve, smoothing,
 * gains, and the product; only detector and smoothing wait for the sample before.
 */
function linkedPeak(l: usize, r: usize, n: usize, line: usize, stride: usize, ahead: usize, params: usize, state: usize): void {
  const threshold = load<f64>(params), slope = load<f64>(params, 8), knee = load<f64>(params, 16);
  const attack = load<f64>(params, 24), release = load<f64>(params, 32), makeup = load<f64>(params, 40), hold = load<f64>(params, 48);
  const wet = load<f64>(params, 88), pole = load<f64>(params, 96);
  const floor = fastExp2((threshold - knee * 0.5) / DB);
  const side = line + 2 * stride + (ahead << 2), work = line + 4 * stride;
  largerMagnitude(side, side + stride, n, work);
  let held = load<f64>(state, 16), left = load<f64>(state, 32), top: f64 = 0;
  for (let i: usize = 0; i < n; i++) {
    const a = <f64>load<f32>(work + (i << 2));
    if (a >= held) {
      held = a;
      left = hold;
    } else if (left > 0) left -= 1.0;
    else {
      held = Math.max(a, held * pole);
      if (held < TINY) held = 0;
    }
    top = Math.max(top, held);
    store<f32>(work + (i << 2), <f32>held);
  }
  store<f64>(state, held, 16);
  store<f64>(state, held, 24);
  store<f64>(state, left, 32);
  store<f64>(state, left, 40);
  let g = load<f64>(state);
  if (top <= floor && g == 0) {
    // Nothing is turned down.
    const flat = f32x4.splat(<f32>(1.0 + wet * (fastExp2(makeup / DB) - 1.0)));
    for (let o: usize = 0; o < n << 2; o += 16) v128.store(work + o, flat);
    applyGains(l, r, line, line + stride, work, n);
    return;
  }
  // slope × (t² / 2 knee + what lies beyond the knee), t: the way into the knee.
  const t0 = f32x4.splat(<f32>threshold), half = f32x4.splat(<f32>(knee * 0.5)), whole = f32x4.splat(<f32>knee), zero = f32x4.splat(0);
  const square = f32x4.splat(knee > 0 ? <f32>(0.5 / knee) : 0), k = f32x4.splat(<f32>slope), db = f32x4.splat(<f32>DB), tiny = f32x4.splat(1e-30);
  for (let o: usize = 0; o < n << 2; o += 16) {
    const over = f32x4.sub(f32x4.mul(log2x4(f32x4.pmax(tiny, v128.load(work + o))), db), t0);
    const t = f32x4.pmax(zero, f32x4.pmin(whole, f32x4.add(over, half)));
    const beyond = f32x4.pmax(zero, f32x4.sub(over, half));
    v128.store(work + o, f32x4.mul(k, f32x4.add(f32x4.mul(f32x4.mul(t, t), square), beyond)));
  }
  for (let i: usize = 0; i < n; i++) {
    g = smooth(<f64>load<f32>(work + (i << 2)), g, attack, release);
    store<f32>(work + (i << 2), <f32>g);
  }
  store<f64>(state, g);
  store<f64>(state, g, 8);
  const up = f32x4.splat(<f32>makeup), inverse = f32x4.splat(<f32>(1.0 / DB)), share = f32x4.splat(<f32>wet), one = f32x4.splat(1);
  for (let o: usize = 0; o < n << 2; o += 16) {
    const factor = exp2x4(f32x4.mul(f32x4.add(v128.load(work + o), up), inverse));
    v128.store(work + o, f32x4.add(one, f32x4.mul(share, f32x4.sub(factor, one))));
  }
  applyGains(l, r, line, line + stride, work, n);
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

/** Each channel with its own detector, linked as far as set. */
function general(l: usize, r: usize, n: usize, line: usize, stride: usize, ahead: usize, params: usize, state: usize): void {
  const threshold = load<f64>(params), slope = load<f64>(params, 8), knee = load<f64>(params, 16);
  const attack = load<f64>(params, 24), release = load<f64>(params, 32), makeup = load<f64>(params, 40);
  const link = load<f64>(params, 80), wet = load<f64>(params, 88);
  const floor = fastExp2((threshold - knee * 0.5) / DB);
  let g0 = load<f64>(state), g1 = load<f64>(state, 8);
  const side = line + 2 * stride + (ahead << 2);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const e0 = detect(<f64>load<f32>(side + o), state, 0, params);
    const e1 = detect(<f64>load<f32>(side + stride + o), state, 1, params);
    const top = Math.max(e0, e1);
    g0 = smooth(gainAt(e0 + (top - e0) * link, floor, threshold, slope, knee), g0, attack, release);
    g1 = smooth(gainAt(e1 + (top - e1) * link, floor, threshold, slope, knee), g1, attack, release);
    const k0 = fastExp2((g0 + makeup) / DB), k1 = fastExp2((g1 + makeup) / DB);
    store<f32>(l + o, <f32>(<f64>load<f32>(line + o) * (1.0 + wet * (k0 - 1.0))));
    store<f32>(r + o, <f32>(<f64>load<f32>(line + stride + o) * (1.0 + wet * (k1 - 1.0))));
  }
  store<f64>(state, g0);
  store<f64>(state, g1, 8);
}

export function compressor(l: usize, r: usize, sideL: usize, sideR: usize, n: usize, params: usize, state: usize): void {
  const delay = <usize>load<f64>(params, 104), ahead = <usize>load<f64>(params, 72);
  const line = state + 64, past = delay << 2, stride = past + 2048, bytes = n << 2;
  memory.copy(line + past, l, bytes);
  memory.copy(line + stride + past, r, bytes);
  memory.copy(line + 2 * stride + past, sideL, bytes);
  memory.copy(line + 3 * stride + past, sideR, bytes);
  if (load<f64>(params, 56) == 0 && load<f64>(params, 80) == 1.0) linkedPeak(l, r, n, line, stride, ahead, params, state);
  else general(l, r, n, line, stride, ahead, params, state);
  for (let c: usize = 0; c < 4; c++) memory.copy(line + c * stride, line + c * stride + bytes, past);
}

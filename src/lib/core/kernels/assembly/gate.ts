// Downward expander and gate: peak detector with hold, hysteresis, gain smoothed in decibels.
// Structure: Giannoulis, Massberg, Reiss, JAES 60 (2012), with the curve below the threshold; hysteresis and hold: common practice, no source.
//
// params (f64): 0 threshold (dB), 1 slope ratio-1 (>= 0), 2 range dB (<= 0), 3 attack pole, 4 release pole, 5 hold samples,
//   6 hysteresis dB, 7 look-ahead samples, 8 delay (samples), 9 detector release pole, 10 detector hold samples, 11 knee dB
// state (f64): 0 gain dB, 1 detector, 2 detector hold left, 3 hold left, 4 open (0 or 1); state + 64: two lines of delay + 512 f32,
//   left and right, each beginning with the last `delay` samples, and room for 520 f32. n ≤ 512.
import { fastExp2, fastLog2 } from "./fast";
import { applyGains, largerMagnitude } from "./gains";

const DB_PER_OCTAVE: f64 = 6.020599913279624;
const TINY: f64 = 1e-30;

/** Static gain in dB below the threshold: a soft knee of `knee` dB around it, never less than `range`. */
export function expanderCurve(level: f64, threshold: f64, slope: f64, range: f64, knee: f64): f64 {
  const under = level - threshold;
  let g: f64 = 0;
  if (2.0 * under <= -knee) g = slope * under;
  else if (2.0 * under < knee) {
    const d = under - knee * 0.5;
    g = -slope * d * d / (2.0 * knee);
  }
  return Math.max(range, g);
}

const RUN: usize = 16;

// @ts-ignore: decorator
@inline function largest16(p: usize): f32 {
  const a = f32x4.pmax(f32x4.pmax(v128.load(p), v128.load(p, 16)), f32x4.pmax(v128.load(p, 32), v128.load(p, 48)));
  const b = f32x4.pmax(a, i32x4.shuffle(a, a, 2, 3, 0, 1));
  return max(f32x4.extract_lane(b, 0), f32x4.extract_lane(b, 1));
}

/** Whether 16 magnitudes stay below the level that is held for as long, or are as silent as that level. */
// @ts-ignore: decorator
@inline function runs(p: usize, held: f64, caught: f64): bool {
  const top = <f64>largest16(p);
  return held == 0 ? top == 0 : caught >= <f64>RUN && top < held;
}

/** The level after 16 frames of release. */
// @ts-ignore: decorator
@inline function fallen(held: f64, pole: f64): f64 {
  let h = held;
  for (let j: usize = 0; j < RUN; j++) h *= pole;
  return h;
}

// @ts-ignore: decorator
@inline function fill16(p: usize, x: f32): void {
  const v = f32x4.splat(x);
  v128.store(p, v);
  v128.store(p, v, 16);
  v128.store(p, v, 32);
  v128.store(p, v, 48);
}

export function gate(l: usize, r: usize, n: usize, params: usize, state: usize): void {
  const threshold = load<f64>(params), slope = load<f64>(params, 8), range = load<f64>(params, 16);
  const attack = load<f64>(params, 24), release = load<f64>(params, 32), hold = load<f64>(params, 40);
  const hysteresis = load<f64>(params, 48), ahead = <usize>load<f64>(params, 56), delay = <usize>load<f64>(params, 64);
  const pole = load<f64>(params, 72), catchHold = load<f64>(params, 80), knee = load<f64>(params, 88);
  const left = state + 64, past = delay << 2, right = left + past + 2048, bytes = n << 2;
  memory.copy(left + past, l, bytes);
  memory.copy(right + past, r, bytes);
  const sideL = left + (ahead << 2), sideR = right + (ahead << 2);
  const work = right + past + 2048;
  largerMagnitude(sideL, sideR, n, work);
  let g = load<f64>(state), held = load<f64>(state, 8), caught = load<f64>(state, 16), stay = load<f64>(state, 24);
  let open = load<f64>(state, 32) != 0;
  // Levels are compared as amplitudes; a logarithm is taken only where the curve bends.
  const openAt = fastExp2(threshold / DB_PER_OCTAVE), closeAt = fastExp2((threshold - hysteresis) / DB_PER_OCTAVE);
  const flatFrom = fastExp2((threshold + knee * 0.5) / DB_PER_OCTAVE);
  const loudFrom = Math.max(openAt, flatFrom);
  const shutBelow = slope > 0 ? fastExp2((threshold - knee * 0.5 + Math.min(range, -knee * slope * 0.5) / slope) / DB_PER_OCTAVE) : 0.0;
  let k = g == 0 ? 1.0 : fastExp2(g / DB_PER_OCTAVE);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    // Sixteen frames at once, where one target holds for all of them.
    let run = false;
    let still: f64 = 0;
    if (i + RUN <= n) {
      if ((!open || held >= closeAt) && runs(work + o, held, caught)) {
        // Nothing passes the level that is held, or all is silent, and nothing can open or close.
        run = true;
        if (held >= openAt) open = true;
        if (open) stay = hold;
        caught = held == 0 ? catchHold : caught - <f64>RUN;
        if (!open || knee > 0) {
          if (held <= shutBelow) still = range;
          else if (held < flatFrom) still = expanderCurve(fastLog2(held) * DB_PER_OCTAVE, threshold, slope, range, knee);
        }
      } else if (caught <= 0 && held >= loudFrom) {
        // The level lets go, but stays above all that could close.
        const end = fallen(held, pole);
        if (end >= loudFrom && <f64>largest16(work + o) < end) {
          run = true;
          open = true;
          stay = hold;
          held = end;
        }
      }
    }
    if (run) {
      if (g == still) fill16(work + o, <f32>k);
      else for (let j: usize = 0; j < RUN; j++) {
        if (g != still) {
          g = still + (g - still) * (still > g ? attack : release);
          if (Math.abs(g - still) < 1e-7) g = still;
          k = g == 0 ? 1.0 : fastExp2(g / DB_PER_OCTAVE);
        }
        store<f32>(work + o + (j << 2), <f32>k);
      }
      i += RUN - 1;
      continue;
    }
    const a = <f64>load<f32>(work + o);
    if (a >= held) {
      held = a;
      caught = catchHold;
    } else if (caught > 0) caught -= 1.0;
    else {
      held = Math.max(a, held * pole);
      if (held < TINY) held = 0;
    }
    // Once open it stays so until the level has been below threshold - hysteresis for the hold time.
    let target: f64 = 0;
    if (held >= openAt) {
      open = true;
      stay = hold;
    } else if (open) {
      if (held >= closeAt) stay = hold;
      else if (stay > 0) stay -= 1.0;
      else open = false;
    }
    if (!open || knee > 0) {
      if (held <= shutBelow) target = range;
      else if (held < flatFrom) target = expanderCurve(fastLog2(held) * DB_PER_OCTAVE, threshold, slope, range, knee);
    }
    if (g != target) {
      g = target + (g - target) * (target > g ? attack : release);
      if (Math.abs(g - target) < 1e-7) g = target;
      k = g == 0 ? 1.0 : fastExp2(g / DB_PER_OCTAVE);
    }
    store<f32>(work + o, <f32>k);
  }
  applyGains(l, r, left, right, work, n);
  memory.copy(left, left + bytes, past);
  memory.copy(right, right + bytes, past);
  store<f64>(state, g);
  store<f64>(state, held, 8);
  store<f64>(state, caught, 16);
  store<f64>(state, stay, 24);
  store<f64>(state, open ? 1.0 : 0.0, 32);
}

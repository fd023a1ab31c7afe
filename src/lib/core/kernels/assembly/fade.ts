// Fade curves, t from 0 (silent) to 1 (full). Computed here so that preview and render have the same bits everywhere.
// 0 straight: t. 1 equal power: sin(pi t / 2). 2 S-shaped: (1 - cos(pi t)) / 2. 3 smooth: 3t² - 2t³. 4 logarithmic: 40 dB range, 0 at t = 0.
// 5 exponential: 4 turned by half a turn. 6 level power of a correlation c: s / sqrt(1 + 2 c s k), s = sin(pi t / 2), k = cos(pi t / 2).
const HALF_PI: f64 = 1.5707963267948966;
const LN100: f64 = 4.605170185988092;

/** t from 0 to 1, bent: up for a bend above 0, down below it. (1 - e^(-bend t / 2)) / (1 - e^(-bend / 2)). */
export function bent(t: f64, bend: f64): f64 {
  if (bend == 0 || t <= 0 || t >= 1) return t;
  const k = -0.5 * bend;
  return (Math.exp(k * t) - 1.0) / (Math.exp(k) - 1.0);
}

export function fadeGain(t: f64, curve: i32, bend: f64, correlation: f64): f64 {
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  t = bent(t, bend);
  if (curve == 1) return Math.sin(HALF_PI * t);
  if (curve == 2) return 0.5 - 0.5 * Math.cos(2.0 * HALF_PI * t);
  if (curve == 3) return t * t * (3.0 - 2.0 * t);
  if (curve == 4) return (Math.exp(LN100 * t) - 1.0) / 99.0;
  if (curve == 5) return (1.0 - Math.exp(-LN100 * t)) * (100.0 / 99.0);
  if (curve == 6) {
    const s = Math.sin(HALF_PI * t), k = Math.cos(HALF_PI * t);
    return s / Math.sqrt(1.0 + 2.0 * correlation * s * k);
  }
  return t;
}

/**
 * Multiplies a stereo block by a fade. position: of the block's first sample, counted from the silent end outwards to the full end
 * (direction 1: fade in) or backwards (direction -1: fade out, position falls by one a sample). length in samples.
 */
export function fade(l: usize, r: usize, n: usize, position: f64, direction: f64, length: f64, curve: i32, bend: f64, correlation: f64): void {
  for (let i: usize = 0; i < n; i++) {
    const g = <f32>fadeGain((position + direction * <f64>i) / length, curve, bend, correlation);
    store<f32>(l + (i << 2), load<f32>(l + (i << 2)) * g);
    store<f32>(r + (i << 2), load<f32>(r + (i << 2)) * g);
  }
}

/** Multiplies a stereo block by the levels in dB that stand in `levels`, one a frame, f64; at `floor` and below it is silent. */
export function applyLevels(l: usize, r: usize, levels: usize, n: usize, floor: f64): void {
  const LN10_20 = 0.11512925464970228;
  for (let i: usize = 0; i < n; i++) {
    const db = load<f64>(levels + (i << 3));
    const g: f32 = db == 0 ? 1 : db <= floor ? 0 : <f32>Math.exp(db * LN10_20);
    store<f32>(l + (i << 2), load<f32>(l + (i << 2)) * g);
    store<f32>(r + (i << 2), load<f32>(r + (i << 2)) * g);
  }
}

/** Balances a stereo block by the pans that stand in `pans`, one a frame, f64, -1 left to 1 right: the far side falls by a cosine. */
export function applyPans(l: usize, r: usize, pans: usize, n: usize): void {
  for (let i: usize = 0; i < n; i++) {
    const pan = load<f64>(pans + (i << 3));
    const far = pan > 0 ? l : r;
    const g = <f32>Math.cos(Math.abs(pan) * HALF_PI);
    store<f32>(far + (i << 2), load<f32>(far + (i << 2)) * g);
  }
}

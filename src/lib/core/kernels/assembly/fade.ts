// Fade curves, t from 0 (silent) to 1 (full). Computed here so that preview and render have the same bits everywhere.
// 0 straight: t. 1 equal power: sin(pi t / 2). 2 S-shaped: (1 - cos(pi t)) / 2. 3 smooth: 3t² - 2t³. 4 logarithmic: 40 dB range, 0 at t = 0.
const HALF_PI: f64 = 1.5707963267948966;
const LN100: f64 = 4.605170185988092;

export function fadeGain(t: f64, curve: i32): f64 {
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  if (curve == 1) return Math.sin(HALF_PI * t);
  if (curve == 2) return 0.5 - 0.5 * Math.cos(2.0 * HALF_PI * t);
  if (curve == 3) return t * t * (3.0 - 2.0 * t);
  if (curve == 4) return (Math.exp(LN100 * t) - 1.0) / 99.0;
  return t;
}

/**
 * Multiplies a stereo block by a fade. position: of the block's first sample, counted from the silent end outwards to the full end
 * (direction 1: fade in) or backwards (direction -1: fade out, position falls by one a sample). length in samples.
 */
export function fade(l: usize, r: usize, n: usize, position: f64, direction: f64, length: f64, curve: i32): void {
  for (let i: usize = 0; i < n; i++) {
    const g = <f32>fadeGain((position + direction * <f64>i) / length, curve);
    store<f32>(l + (i << 2), load<f32>(l + (i << 2)) * g);
    store<f32>(r + (i << 2), load<f32>(r + (i << 2)) * g);
  }
}

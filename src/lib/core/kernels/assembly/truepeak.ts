// True peak by the 4-phase, 48-coefficient interpolator of ITU-R BS.1770-5 annex 2.
// taps: 12 × f32x4; vector k holds the four phases' coefficient for x[n - k].
// history: 12 f32 (the last 11 samples; one unused).

import { greatest } from "./lanes";

// Sum of the largest phase's absolute coefficients: no output exceeds this times the largest input.
const GAIN_BOUND: f32 = 2.0229;
// Nor does it exceed ACROSS times the largest input by more than BEND times the largest second difference of the inputs: each phase, less the straight line
// between its two middle inputs and summed up twice, is at most this in sum.
const ACROSS: f32 = 1.0017;
const BEND: f32 = 0.5699;
const CHUNK: usize = 256;
const GROUP: usize = 16;

// @ts-ignore: decorator
@inline export function absMax(p: usize, n: usize): f32 {
  let a = f32x4.splat(0), b = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 8 <= n; i += 8) {
    a = f32x4.pmax(a, f32x4.abs(v128.load(p + (i << 2))));
    b = f32x4.pmax(b, f32x4.abs(v128.load(p + (i << 2), 16)));
  }
  if (n >= 8) {
    // The last eight may overlap those before.
    a = f32x4.pmax(a, f32x4.abs(v128.load(p + (n << 2) - 32)));
    b = f32x4.pmax(b, f32x4.abs(v128.load(p + (n << 2) - 16)));
    i = n;
  }
  for (; i < n; i++) a = f32x4.pmax(a, f32x4.abs(v128.load32_zero(p + (i << 2))));
  return greatest(f32x4.pmax(a, b));
}

/** Largest second difference of n ≥ 4 samples; one more lies on both sides. */
// @ts-ignore: decorator
@inline export function bendMax(p: usize, n: usize): f32 {
  let a = f32x4.splat(0);
  for (let i: usize = 0; i < n; i += 4) {
    // The last four may overlap those before.
    const q = p + (min(i, n - 4) << 2), x = v128.load(q);
    a = f32x4.pmax(a, f32x4.abs(f32x4.sub(f32x4.add(v128.load(q - 4), v128.load(q, 4)), f32x4.add(x, x))));
  }
  return greatest(a);
}

/** Largest absolute sample of a block. */
export function peak(p: usize, n: usize): f32 {
  return absMax(p, n);
}

// @ts-ignore: decorator
@inline function phases(p: usize, taps: usize): v128 {
  let a = f32x4.mul(v128.load32_splat(p), v128.load(taps));
  let b = f32x4.mul(v128.load32_splat(p - 4), v128.load(taps, 16));
  a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - 8), v128.load(taps, 32)));
  b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - 12), v128.load(taps, 48)));
  a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - 16), v128.load(taps, 64)));
  b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - 20), v128.load(taps, 80)));
  a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - 24), v128.load(taps, 96)));
  b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - 28), v128.load(taps, 112)));
  a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - 32), v128.load(taps, 128)));
  b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - 36), v128.load(taps, 144)));
  a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - 40), v128.load(taps, 160)));
  b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - 44), v128.load(taps, 176)));
  return f32x4.add(a, b);
}

/** Largest output for inputs [p, p + n), the 11 samples before p at hand. */
function highest(p: usize, n: usize, taps: usize, running: f32): f32 {
  let top = running;
  for (let i: usize = 0; i < n; i += CHUNK) {
    const m = min(CHUNK, n - i);
    const from = p + (i << 2);
    // What cannot raise the maximum is skipped: exact, and most of all sound.
    if (absMax(from - 44, m + 11) * GAIN_BOUND <= top) continue;
    for (let k: usize = 0; k < m; k += GROUP) {
      const g = min(GROUP, m - k);
      const at = from + (k << 2);
      const largest = absMax(at - 44, g + 11);
      if (largest * GAIN_BOUND <= top || largest * ACROSS + bendMax(at - 40, g + 9) * BEND <= top) continue;
      let best = f32x4.splat(top);
      for (let j: usize = 0; j < g; j++) best = f32x4.pmax(best, f32x4.abs(phases(at + (j << 2), taps)));
      top = greatest(best);
    }
  }
  return top;
}

/** Running true peak of one channel. work: 24 f32. Returns max(running, peak of this block). */
export function truePeak(p: usize, n: usize, taps: usize, history: usize, work: usize, running: f32): f32 {
  // The first 11 samples look back into the history; the rest lies in the block itself.
  const head = min<usize>(11, n);
  memory.copy(work, history, 44);
  memory.copy(work + 44, p, head << 2);
  let top = highest(work + 44, head, taps, running);
  if (n > 11) top = highest(p + 44, n - 11, taps, top);
  if (n >= 11) memory.copy(history, p + ((n - 11) << 2), 44);
  else memory.copy(history, work + (n << 2), 44);
  return top;
}

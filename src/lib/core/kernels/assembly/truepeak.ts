// True peak by the 4-phase, 48-coefficient interpolator of ITU-R BS.1770-5 annex 2.
// taps: 12 × f32x4; vector k holds the four phases' coefficient for x[n - k].
// history: 12 f32 (the last 11 samples; one unused).

// Sum of the largest phase's absolute coefficients: no output exceeds this times the largest input.
const GAIN_BOUND: f32 = 2.0229;
const CHUNK: usize = 256;

// @ts-ignore: decorator
@inline function absMax(p: usize, n: usize): f32 {
  let m = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 4 <= n; i += 4) m = f32x4.max(m, f32x4.abs(v128.load(p + (i << 2))));
  let top = max(max(f32x4.extract_lane(m, 0), f32x4.extract_lane(m, 1)), max(f32x4.extract_lane(m, 2), f32x4.extract_lane(m, 3)));
  for (; i < n; i++) top = max(top, abs(load<f32>(p + (i << 2))));
  return top;
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

// @ts-ignore: decorator
@inline function across(m: v128): f32 {
  return max(max(f32x4.extract_lane(m, 0), f32x4.extract_lane(m, 1)), max(f32x4.extract_lane(m, 2), f32x4.extract_lane(m, 3)));
}

/**
 * Running true peak of one channel. work: 12 + n f32 of scratch. Returns max(running, peak of this block).
 * A chunk whose sample peak times the filter's gain bound stays below the running peak cannot raise it and is skipped: exact.
 */
export function truePeak(p: usize, n: usize, taps: usize, history: usize, work: usize, running: f32): f32 {
  memory.copy(work, history, 48);
  memory.copy(work + 48, p, n << 2);
  memory.copy(history, work + (n << 2), 48);
  let top = running;
  for (let i: usize = 0; i < n; i += CHUNK) {
    const m = min(CHUNK, n - i);
    const from = work + 4 + (i << 2);
    const plain = absMax(from, m + 11);
    if (plain * GAIN_BOUND <= top) continue;
    let best = f32x4.splat(top);
    for (let k: usize = 0; k < m; k++) best = f32x4.max(best, f32x4.abs(phases(from + ((k + 11) << 2), taps)));
    top = across(best);
  }
  return top;
}

/**
 * Envelope of a stereo pair: out[i] = largest of the sample itself (6 samples back, the filter's middle) and its four phases, both channels.
 * workL, workR: 12 + n f32, kept between calls by history.
 */
export function truePeakEnvelope(l: usize, r: usize, n: usize, taps: usize, historyL: usize, historyR: usize, work: usize, out: usize): void {
  memory.copy(work, historyL, 48);
  memory.copy(work + 48, l, n << 2);
  memory.copy(historyL, work + (n << 2), 48);
  for (let i: usize = 0; i < n; i++) {
    const p = work + ((i + 12) << 2);
    const near = max(abs(load<f32>(p - 24)), abs(load<f32>(p - 20)));
    store<f32>(out + (i << 2), max(near, across(f32x4.abs(phases(p, taps)))));
  }
  memory.copy(work, historyR, 48);
  memory.copy(work + 48, r, n << 2);
  memory.copy(historyR, work + (n << 2), 48);
  for (let i: usize = 0; i < n; i++) {
    const p = work + ((i + 12) << 2);
    const near = max(abs(load<f32>(p - 24)), abs(load<f32>(p - 20)));
    const right = max(near, across(f32x4.abs(phases(p, taps))));
    store<f32>(out + (i << 2), max(load<f32>(out + (i << 2)), right));
  }
}

/** Sample-peak envelope with the same delay as truePeakEnvelope: out[i] = max |x[i - 6]|, both channels. */
export function peakEnvelope(l: usize, r: usize, n: usize, historyL: usize, historyR: usize, work: usize, out: usize): void {
  memory.copy(work, historyL, 48);
  memory.copy(work + 48, l, n << 2);
  memory.copy(historyL, work + (n << 2), 48);
  for (let i: usize = 0; i < n; i++) store<f32>(out + (i << 2), abs(load<f32>(work + ((i + 6) << 2))));
  memory.copy(work, historyR, 48);
  memory.copy(work + 48, r, n << 2);
  memory.copy(historyR, work + (n << 2), 48);
  for (let i: usize = 0; i < n; i++) {
    const o = out + (i << 2);
    store<f32>(o, max(load<f32>(o), abs(load<f32>(work + ((i + 6) << 2)))));
  }
}

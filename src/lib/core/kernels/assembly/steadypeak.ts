// True peak by a fourfold interpolator of 32 taps, and a parabola through its largest values: what lies between those is not missed.
// taps: 32 × f32x4; vector k holds the four phases' coefficient for x[n - k]; phase p lies p / 4 after x[n - 16], phase 0 is that sample itself.
// history: 36 f32 (the last PAST samples).
import { greatest } from "./lanes";
import { absMax, bendMax } from "./truepeak";

const TAPS: usize = 32;
// Samples before a block that its first values depend on: a filter's length for what is compared with what came before.
const PAST: usize = 33;
// No phase passes ACROSS times the largest input by more than BEND times the largest second difference of the inputs (each phase less the
// straight line between its two middle inputs, summed up twice, in sum), nor GAIN_BOUND times the largest input. A parabola through a largest
// value and its neighbours rises a quarter of it at most.
const GAIN_BOUND: f32 = 2.501;
const ACROSS: f32 = 1.003;
const BEND: f32 = 0.506;
const PARABOLA: f32 = 1.25;
const CHUNK: usize = 256;
const GROUP: usize = 16;

// @ts-ignore: decorator
@inline function phases(p: usize, taps: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
  for (let k: usize = 0; k < TAPS; k += 4) {
    const x = p - (k << 2), t = taps + (k << 4);
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(x), v128.load(t)));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(x - 4), v128.load(t, 16)));
    c = f32x4.add(c, f32x4.mul(v128.load32_splat(x - 8), v128.load(t, 32)));
    d = f32x4.add(d, f32x4.mul(v128.load32_splat(x - 12), v128.load(t, 48)));
  }
  return f32x4.add(f32x4.add(a, c), f32x4.add(b, d));
}

/**
 * Of four values in the middle, with their neighbours: the largest magnitude, where it is no less than both neighbours that of the parabola's
 * crest.
 */
// @ts-ignore: decorator
@inline function crests(left: v128, middle: v128, right: v128): v128 {
  const own = f32x4.abs(middle);
  const sign = v128.and(middle, f32x4.splat(-0.0));
  const l = v128.xor(left, sign), r = v128.xor(right, sign);
  const bend = f32x4.sub(f32x4.sub(f32x4.add(own, own), l), r), slope = f32x4.sub(l, r);
  const crest = f32x4.add(own, f32x4.div(f32x4.mul(slope, slope), f32x4.mul(bend, f32x4.splat(8))));
  const top = v128.and(v128.and(f32x4.ge(own, f32x4.abs(left)), f32x4.ge(own, f32x4.abs(right))), f32x4.gt(bend, f32x4.splat(0)));
  return v128.bitselect(crest, own, top);
}

/** Largest output for inputs [p, p + n), the PAST samples before p at hand. */
function highest(p: usize, n: usize, taps: usize, running: f32): f32 {
  let top = running;
  for (let i: usize = 0; i < n; i += CHUNK) {
    const m = min(CHUNK, n - i);
    const from = p + (i << 2);
    if (absMax(from - (PAST << 2), m + PAST) * (GAIN_BOUND * PARABOLA) <= top) continue;
    for (let k: usize = 0; k < m; k += GROUP) {
      const g = min(GROUP, m - k);
      const at = from + (k << 2);
      const largest = absMax(at - (TAPS << 2), g + TAPS);
      if (largest * (GAIN_BOUND * PARABOLA) <= top || (largest * ACROSS + bendMax(at - (TAPS << 2), g + TAPS - 1) * BEND) * PARABOLA <= top) continue;
      let best = f32x4.splat(top), last = phases(at - 4, taps);
      for (let j: usize = 0; j < g; j++) {
        const now = phases(at + (j << 2), taps);
        // The last two of before and the first of now, and so on.
        const left = i32x4.shuffle(last, now, 2, 3, 4, 5), middle = i32x4.shuffle(last, now, 3, 4, 5, 6);
        best = f32x4.pmax(best, crests(left, middle, now));
        last = now;
      }
      top = greatest(best);
    }
  }
  return top;
}

/** Running true peak of one channel. work: 72 f32. Returns max(running, peak of this block), 16 frames late. */
export function steadyPeak(p: usize, n: usize, taps: usize, history: usize, work: usize, running: f32): f32 {
  const head = min<usize>(PAST, n);
  memory.copy(work, history, PAST << 2);
  memory.copy(work + (PAST << 2), p, head << 2);
  let top = highest(work + (PAST << 2), head, taps, running);
  if (n > PAST) top = highest(p + (PAST << 2), n - PAST, taps, top);
  if (n >= PAST) memory.copy(history, p + ((n - PAST) << 2), PAST << 2);
  else memory.copy(history, work + (n << 2), PAST << 2);
  return top;
}

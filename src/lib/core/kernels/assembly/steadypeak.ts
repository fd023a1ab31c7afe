// True peak by a fourfold interpolator of 32 taps, and a parabola through its largest values: what lies between those is not missed.
// taps: 16 × (even, odd, middle) f32: the quarter phases are mirror images of each other, the half phase of itself. With s and d the sum and the
// difference of x[n - k] and x[n - 31 + k], summed up over k: phase 1 = even s + odd d, phase 2 = middle s, phase 3 = even s - odd d. Phase p lies
// p / 4 after x[n - 16], phase 0 is that sample itself. history: 36 f32 (the last PAST samples).
import { greatest } from "./lanes";
import { absMax, bendMax } from "./truepeak";

const TAPS: usize = 32;
// Samples before a block that its first values depend on: a filter's length, and the four frames that are compared with the first ones.
const PAST: usize = 36;
// No phase passes ACROSS times the largest input by more than BEND times the largest second difference of the inputs (each phase less the
// straight line between its two middle inputs, summed up twice, in sum), nor GAIN_BOUND times the largest input. A parabola through a largest
// value and its neighbours rises a quarter of it at most.
const GAIN_BOUND: f32 = 2.501;
const ACROSS: f32 = 1.003;
const BEND: f32 = 0.506;
const PARABOLA: f32 = 1.25;
const CHUNK: usize = 256;
const GROUP: usize = 16;

/**
 * Of four values in the middle, with their neighbours: the largest magnitude; where it is no less than both neighbours, that of the parabola's
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

// The crests of four frames, whose newest samples begin at p, in `best`; phase 3 of the last one in `third`.
let best: v128 = f32x4.splat(0);
let third: v128 = f32x4.splat(0);

/** Looks at four frames. third: before, phase 3 of the frame before them in its last lane; then that of these. */
// @ts-ignore: decorator
@inline function four(p: usize, taps: usize, first: bool): void {
  let even = f32x4.splat(0), odd = f32x4.splat(0), middle = f32x4.splat(0);
  for (let k: usize = 0; k < TAPS >> 1; k++) {
    const x = v128.load(p - (k << 2)), y = v128.load(p - ((TAPS - 1 - k) << 2)), t = taps + k * 12;
    const s = f32x4.add(x, y), d = f32x4.sub(x, y);
    even = f32x4.add(even, f32x4.mul(s, v128.load32_splat(t)));
    odd = f32x4.add(odd, f32x4.mul(d, v128.load32_splat(t, 4)));
    middle = f32x4.add(middle, f32x4.mul(s, v128.load32_splat(t, 8)));
  }
  const one = f32x4.add(even, odd), three = f32x4.sub(even, odd);
  const before = third;
  third = three;
  if (first) return;
  const here = v128.load(p - 64), next = v128.load(p - 60);
  const top = f32x4.pmax(crests(i32x4.shuffle(before, three, 3, 4, 5, 6), here, one), crests(here, one, middle));
  best = f32x4.pmax(best, f32x4.pmax(top, f32x4.pmax(crests(one, middle, three), crests(middle, three, next))));
}

/** Largest output for inputs [p, p + n), n ≥ 4, the PAST samples before p at hand. */
function highest(p: usize, n: usize, taps: usize, running: f32): f32 {
  let top = running;
  for (let i: usize = 0; i < n; i += CHUNK) {
    const m = min(CHUNK, n - i);
    const from = p + (i << 2);
    if (absMax(from - (PAST << 2), m + PAST) * (GAIN_BOUND * PARABOLA) <= top) continue;
    // Up to which frame all have been looked at, so that phase 3 before it is known.
    let known = from - 4;
    for (let k: usize = 0; k < m; k += GROUP) {
      const g = min(GROUP, m - k);
      const at = from + (k << 2);
      const largest = absMax(at - (TAPS << 2), g + TAPS);
      if (largest * (GAIN_BOUND * PARABOLA) <= top || (largest * ACROSS + bendMax(at - (TAPS << 2), g + TAPS - 1) * BEND) * PARABOLA <= top) continue;
      best = f32x4.splat(top);
      if (known != at) four(at - 16, taps, true);
      const end = at + (g << 2);
      let q = at;
      for (; q + 16 <= end; q += 16) four(q, taps, false);
      if (q < end) {
        // The last four frames once more, some of them for the second time.
        four(end - 32, taps, true);
        four(end - 16, taps, false);
      }
      known = end;
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

// Envelope of a limiter: at every frame the largest magnitude of the sound around it, between the samples too. Only what may decide the least
// gain of a window is found out; everything else may come out lower than it is. Interpolators: that of ITU-R BS.1770-5 annex 2, and an
// eightfold one for all that it misses.
//
// fine: TAPS × two f32x4: the coefficients of eight phases for x[n - k]; coarse: 12 × f32x4 as in truepeak.ts. Delay: TAPS / 2 frames.
import { greatest } from "./lanes";
import { slidingMinimum } from "./sliding";

const TAPS: usize = 32;
const CENTRE: usize = (TAPS >> 1) << 2;
// Frames that are judged together.
const GROUP: usize = 8;
const GROUPS: usize = 64;
// Groups before and after a block.
const PAD: usize = 32;
// Two rules leave a frame's sound between its samples out of account, by the samples around it alone: where the largest of the six to both sides
// passes the threshold by less than this factor, and where the sound only rises or only falls past all six. Sound between samples rarely passes them by
// more: 1.7 holds for square waves and for white noise (tests/core/dynamics.test.ts).
const BOUND: f32 = 1.7;
// All other shortcuts are exact, so that it does not matter where blocks begin. No phase of the two filters passes ACROSS times the two samples around it by more than BEND times the largest second difference under
// the filter: the filter less a straight line, summed up twice, is at most this in sum (largest: the phase in the middle).
const ACROSS: f32 = 1.0066;
const BEND: f32 = 0.6056;
// The coarse interpolator misses less than this factor of what the fine one finds, and is asked first.
const MISSED: f32 = 1.35;

// work, in f32: levels of the groups, negative, with PAD before and after; their sliding minima; upper bounds and bends of both channels.
const LEVELS: usize = 0;
const MOST: usize = (PAD + GROUPS + PAD) << 2;
const UPPER: usize = MOST * 2;
const BENDS: usize = UPPER + ((GROUPS * 2) << 2);

/** The largest of each of four vectors. */
// @ts-ignore: decorator
@inline function greatestOfFour(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmax(i32x4.shuffle(a, b, 0, 4, 1, 5), i32x4.shuffle(a, b, 2, 6, 3, 7));
  const cd = f32x4.pmax(i32x4.shuffle(c, d, 0, 4, 1, 5), i32x4.shuffle(c, d, 2, 6, 3, 7));
  return f32x4.pmax(i64x2.shuffle(ab, cd, 0, 2), i64x2.shuffle(ab, cd, 1, 3));
}

// @ts-ignore: decorator
@inline function magnitude(p: usize): v128 {
  return f32x4.abs(v128.load(p));
}

// Second differences of a group, at four places the larger of two.
// @ts-ignore: decorator
@inline function bend(p: usize): v128 {
  const x = v128.load(p), y = v128.load(p, 16);
  const a = f32x4.sub(f32x4.add(v128.load(p - 4), v128.load(p, 4)), f32x4.add(x, x));
  const b = f32x4.sub(f32x4.add(v128.load(p, 12), v128.load(p, 20)), f32x4.add(y, y));
  return f32x4.pmax(f32x4.abs(a), f32x4.abs(b));
}

/** Whether all samples that count for the groups whose first sample lies at p stay below the threshold by the factor BOUND. */
// @ts-ignore: decorator
@inline function calm(p: usize, groups: usize, threshold: f32): bool {
  let m = magnitude(p - 24);
  for (const end = p + (groups << 5) + 36; p < end; p += 16) m = f32x4.pmax(m, magnitude(p - 8));
  return greatest(m) * BOUND <= threshold;
}

// @ts-ignore: decorator
@inline function raise(levels: usize, level: f32, first: bool): void {
  if (first || level < load<f32>(levels)) store<f32>(levels, level);
}

/** Levels, upper bounds (0: not of interest) and bends of the groups of a channel, eight at a time, whose block begins at x. */
function judge(x: usize, groups: usize, threshold: f32, work: usize, channel: usize): void {
  const first = channel == 0;
  const scale = f32x4(1, BOUND, ACROSS, BEND);
  for (let from: usize = 0; from < groups; from += 8) {
    const count = min(8, groups - from), to = work + ((channel * GROUPS + from) << 2);
    const begin = x + (from << 5);
    let upper = to + UPPER, bends = to + BENDS, levels = work + LEVELS + ((PAD + from) << 2);
    if (calm(begin - CENTRE, count, threshold)) {
      memory.fill(upper, 0, count << 2);
      if (first) memory.fill(levels, 0, count << 2);
      continue;
    }
    // From the first sample under the filter to the last one: five groups.
    let b0 = bend(begin - 132), b1 = bend(begin - 100), b2 = bend(begin - 68), b3 = bend(begin - 36);
    for (let newest = begin; newest < begin + (count << 5); newest += 32) {
      const p = newest - CENTRE, b4 = bend(newest - 4);
      const own = f32x4.pmax(magnitude(p), magnitude(p + 16)), ends = f32x4.pmax(own, magnitude(p + 20));
      const sides = f32x4.pmax(f32x4.pmax(magnitude(p - 24), magnitude(p - 16)), f32x4.pmax(magnitude(p + 36), magnitude(p + 44)));
      const bent = f32x4.pmax(f32x4.pmax(f32x4.pmax(b0, b1), f32x4.pmax(b2, b3)), b4);
      const all = f32x4.mul(greatestOfFour(own, f32x4.pmax(ends, sides), ends, bent), scale);
      store<f32>(upper, f32x4.extract_lane(all, 1) > threshold ? f32x4.extract_lane(all, 2) + f32x4.extract_lane(all, 3) : 0);
      v128.store32_lane(bends, all, 3);
      raise(levels, -f32x4.extract_lane(all, 0), first);
      upper += 4;
      bends += 4;
      levels += 4;
      b0 = b1;
      b1 = b2;
      b2 = b3;
      b3 = b4;
    }
  }
}

// @ts-ignore: decorator
@inline function fineAt(p: usize, fine: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
  for (let k: usize = 0; k < TAPS; k += 2) {
    const x = v128.load32_splat(p - (k << 2)), y = v128.load32_splat(p - (k << 2) - 4);
    const t = fine + (k << 5);
    a = f32x4.add(a, f32x4.mul(x, v128.load(t)));
    b = f32x4.add(b, f32x4.mul(x, v128.load(t, 16)));
    c = f32x4.add(c, f32x4.mul(y, v128.load(t, 32)));
    d = f32x4.add(d, f32x4.mul(y, v128.load(t, 48)));
  }
  return f32x4.pmax(f32x4.abs(f32x4.add(a, c)), f32x4.abs(f32x4.add(b, d)));
}

// @ts-ignore: decorator
@inline function coarseAt(p: usize, coarse: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0);
  for (let k: usize = 0; k < 12; k += 2) {
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(p - (k << 2)), v128.load(coarse + (k << 4))));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(p - (k << 2) - 4), v128.load(coarse + (k << 4), 16)));
  }
  return f32x4.abs(f32x4.add(a, b));
}

// The largest of the two samples around a frame and six more to both sides.
// @ts-ignore: decorator
@inline function nearest(p: usize): f32 {
  return greatest(f32x4.pmax(f32x4.pmax(magnitude(p - 24), magnitude(p - 8)), f32x4.pmax(magnitude(p + 8), magnitude(p + 16))));
}

/**
 * Four frames whose samples begin at p: their envelope goes into out, unless it cannot pass `floor`. bent: BEND times the second differences;
 * m: how many of the frames are of the block.
 */
function between(p: usize, out: usize, threshold: f32, floor: f32, bent: f32, fine: usize, coarse: usize, m: i32): void {
  const here = v128.load(p), after = v128.load(p, 4);
  const before = v128.load(p - 4), later = v128.load(p, 8);
  const ends = f32x4.pmax(f32x4.abs(here), f32x4.abs(after));
  v128.store(out, f32x4.pmax(v128.load(out), ends));
  // Where the sound only rises or only falls past both samples and two more on either side, nothing between them stands out. With their signs: in
  // magnitude, +a, +a, -a, -a that swells rises too, and has its peak between those that are alike.
  const first = v128.load(p - 8), last = v128.load(p, 12);
  const rises = v128.and(v128.and(v128.and(f32x4.lt(first, before), f32x4.lt(after, later)), v128.and(f32x4.lt(before, here), f32x4.lt(here, after))), f32x4.lt(later, last));
  const falls = v128.and(v128.and(v128.and(f32x4.gt(first, before), f32x4.gt(after, later)), v128.and(f32x4.gt(before, here), f32x4.gt(here, after))), f32x4.gt(later, last));
  const straight = v128.or(rises, falls);
  const low = f32x4.le(f32x4.add(f32x4.mul(ends, f32x4.splat(ACROSS)), f32x4.splat(bent)), f32x4.splat(floor));
  let todo = ~i32x4.bitmask(v128.or(straight, low)) & ((1 << m) - 1);
  while (todo != 0) {
    const j = <usize>ctz(todo) << 2;
    todo &= todo - 1;
    if (nearest(p + j) * BOUND <= threshold) continue;
    const newest = p + j + CENTRE, o = out + j;
    const a = abs(load<f32>(p + j)), b = abs(load<f32>(p + j, 4)), c = greatest(coarseAt(newest - (((TAPS - 12) >> 1) << 2), coarse));
    let top = a > b ? a : b;
    if (c > top) top = c;
    if (top * MISSED > threshold) {
      const d = greatest(fineAt(newest, fine));
      if (d > top) top = d;
    }
    if (top > load<f32>(o)) store<f32>(o, top);
  }
}

// @ts-ignore: decorator
@inline function larger(out: usize, p: usize): void {
  v128.store(out, f32x4.pmax(v128.load(out), magnitude(p)));
}

/** Groups to both sides within which a higher level makes a peak unimportant: no window holds the peak and neither of the higher ones. */
// @ts-ignore: decorator
@inline function reach(window: usize): usize {
  return window < 31 ? 0 : min(PAD, (window - 15) >> 4);
}

/**
 * Envelope of n ≤ 512 frames, at left and right in rows that hold at least 44 samples before them, into out: sound that does not pass
 * `threshold` may count as nothing, and what no window of `window` frames depends on may be too low. Writes up to 7 frames beyond n.
 */
export function peakEnvelope(left: usize, right: usize, n: usize, window: usize, threshold: f32, fine: usize, coarse: usize, work: usize, out: usize): void {
  const groups = n / GROUP, levels = work + LEVELS, most = work + MOST + (PAD << 2);
  memory.fill(out, 0, (n << 2) + 28);
  judge(left, groups, threshold, work, 0);
  judge(right, groups, threshold, work, 1);
  memory.fill(levels + ((PAD + groups) << 2), 0, PAD << 2);
  const wide = reach(window);
  if (wide > 0) slidingMinimum(levels, work + MOST, PAD, groups + wide, wide);
  for (let g: usize = 0; g < groups; g++) {
    const o = g << 2, to = out + (g << 5);
    let floor = threshold;
    if (wide > 0) {
      const a = -load<f32>(most + o - 4), b = -load<f32>(most + o + (wide << 2));
      const both = a < b ? a : b;
      if (both > floor) floor = both;
    }
    for (let c: usize = 0; c < 2; c++) {
      const upper = load<f32>(work + UPPER + ((c * GROUPS) << 2) + o);
      if (upper <= threshold) continue;
      const p = (c == 0 ? left : right) + (g << 5) - CENTRE;
      if (upper <= floor) {
        larger(to, p);
        larger(to + 16, p + 16);
        continue;
      }
      const bent = load<f32>(work + BENDS + ((c * GROUPS) << 2) + o);
      between(p, to, threshold, floor, bent, fine, coarse, 4);
      between(p + 16, to + 16, threshold, floor, bent, fine, coarse, 4);
    }
  }
  const rest = n - groups * GROUP;
  for (let i: usize = 0; i < rest; i += 4) {
    const at = (groups * GROUP + i) << 2, m = <i32>min(4, rest - i);
    between(left + at - CENTRE, out + at, threshold, threshold, Infinity, fine, coarse, m);
    between(right + at - CENTRE, out + at, threshold, threshold, Infinity, fine, coarse, m);
  }
  // The levels stay for the next block, if its groups go on where these end.
  if (rest == 0) memory.copy(levels, levels + (groups << 2), PAD << 2);
  else memory.fill(levels, 0, PAD << 2);
}

/** The same without looking between the samples. */
export function sampleEnvelope(left: usize, right: usize, n: usize, out: usize): void {
  for (let o: usize = 0; o < n << 2; o += 16) v128.store(out + o, f32x4.pmax(magnitude(left + o - CENTRE), magnitude(right + o - CENTRE)));
}

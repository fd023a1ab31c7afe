// Gain stage of a look-ahead limiter: sliding minimum of the needed gain, release, box average, delayed multiply.
// Gains are integers of 2^-30, so that the running sum of the average never drifts and any block size gives the same bits.
//
// params (f64): 0 ceiling (linear), 1 release pole, 2 window (samples), 3 signal delay (samples),
//   4 lag of the gain (samples): the longest window less this one, so that latency never changes, 5 gain, 6 whether true peaks count
// state: (i32 at 20) samples since a reduction was asked for, (f64 at 32) how far the released gain lies below the wanted one, (i64 at 40)
//   running sum, (f64 at 48) wanted gain; from state + 64 five rows of capacity + 512: left, right (f32), box (i32), needed gains (f32),
//   each beginning with its last `capacity` values, and room for minima and the envelope (f32). capacity: at least longest window + lag + 8,
//   and delay. n ≤ 512.
import { applyGains } from "./gains";
import { peakEnvelope, sampleEnvelope } from "./peakEnvelope";
import { slidingMinimum } from "./sliding";

const ONE: f64 = 1073741824.0;

/** Nearest whole number of 0 ≤ x < 2^31: adding this makes it the low bits of a double, without the checks of a conversion. */
// @ts-ignore: decorator
@inline function whole(x: f64): i32 {
  return <i32>reinterpret<i64>(x + 6755399441055744.0);
}

/** Moves the last `count` values of a row, which lie before `end` once a block of `bytes` is over, to where the next block finds them. */
// @ts-ignore: decorator
@inline function keepLast(end: usize, count: usize, bytes: usize): void {
  memory.copy(end - (count << 2), end - (count << 2) + bytes, count << 2);
}

/** Puts the state of a fresh limiter in place: unity gain everywhere. */
export function limiterReset(state: usize, capacity: usize, window: i32): void {
  const stride = (capacity + 512) << 2;
  memory.fill(state, 0, 64 + 5 * stride);
  store<i32>(state, 1 << 30, 20);
  store<f64>(state, 1.0, 48);
  store<i64>(state, <i64>window * <i64>ONE, 40);
  const box = state + 64 + 2 * stride, needed = box + stride;
  for (let i: usize = 0; i < capacity; i++) {
    store<i32>(box + (i << 2), <i32>ONE);
    store<f32>(needed + (i << 2), 1);
  }
}

/** to = x × gain. Writes up to three samples beyond n. */
// @ts-ignore: decorator
@inline function takeIn(to: usize, x: usize, bytes: usize, gain: v128): void {
  for (let o: usize = 0; o < bytes; o += 16) v128.store(to + o, f32x4.mul(v128.load(x + o), gain));
}

/** Gains that the envelope asks for; returns whether any is below 1. Writes up to three beyond n. */
function needs(envelope: usize, needed: usize, bytes: usize, ceiling: f32): bool {
  const top = f32x4.splat(ceiling), one = f32x4.splat(1);
  let any = f32x4.splat(0);
  for (let o: usize = 0; o < bytes; o += 16) {
    const e = v128.load(envelope + o), over = f32x4.gt(e, top);
    any = v128.or(any, over);
    v128.store(needed + o, v128.bitselect(f32x4.div(top, e), one, over));
  }
  return v128.any_true(any);
}

/** Samples since the envelope last passed the ceiling. */
// @ts-ignore: decorator
@inline function sincePassed(envelope: usize, n: usize, ceiling: f32): i32 {
  let i = n;
  while (i > 0 && load<f32>(envelope + ((i - 1) << 2)) <= ceiling) i--;
  return <i32>(n - i);
}

/**
 * Released gains as whole numbers: at once down to the wanted one, back up by the pole. What is kept is the distance from the wanted gain: as
 * long as that one stays, a frame costs one multiplication.
 */
function releaseGains(minima: usize, box: usize, n: usize, pole: f64, state: usize): void {
  let below = load<f64>(state, 32), want = load<f64>(state, 48);
  const one = f64x2.splat(ONE), magic = f64x2.splat(6755399441055744.0);
  let i: usize = 0;
  while (i < n) {
    const o = i << 2;
    if (i + 4 <= n && i32x4.all_true(f32x4.eq(v128.load(minima + o), f32x4.splat(<f32>want)))) {
      const a = below * pole, b = a * pole, c = b * pole, d = c * pole, w = f64x2.splat(want);
      const ab = f64x2.add(f64x2.mul(f64x2.sub(w, f64x2.replace_lane(f64x2.splat(a), 1, b)), one), magic);
      const cd = f64x2.add(f64x2.mul(f64x2.sub(w, f64x2.replace_lane(f64x2.splat(c), 1, d)), one), magic);
      v128.store(box + o, i32x4.shuffle(ab, cd, 0, 2, 4, 6));
      // Too little to change any of the sums.
      below = d < 1e-30 ? 0 : d;
      i += 4;
      continue;
    }
    const next = <f64>load<f32>(minima + o);
    if (next == want) below *= pole;
    else {
      const up = next - (want - below);
      below = up > 0 ? up * pole : 0;
      want = next;
    }
    store<i32>(box + o, whole((want - below) * ONE));
    i++;
  }
  store<f64>(state, below, 32);
  store<f64>(state, want, 48);
}

/** Box average of the whole-number gains. Returns the sum at the end. */
function averageGains(enter: usize, leave: usize, gains: usize, n: usize, window: usize, begin: i64): i64 {
  const scale = 1.0 / (ONE * <f64>window);
  let sum = begin;
  for (let o: usize = 0; o < n << 2; o += 4) {
    sum += <i64>load<i32>(enter + o) - <i64>load<i32>(leave + o);
    store<f32>(gains + o, <f32>(<f64>sum * scale));
  }
  return sum;
}

// @ts-ignore: decorator
@inline function fillOnes(p: usize, n: usize): void {
  for (let i: usize = 0; i < n; i++) store<i32>(p + (i << 2), <i32>ONE);
}

/** In place. fine, coarse: coefficients of the interpolators, work: 2048 bytes, see peakEnvelope.ts. */
export function limiter(l: usize, r: usize, n: usize, params: usize, state: usize, capacity: usize, fine: usize, coarse: usize, work: usize): void {
  const ceiling = <f32>load<f64>(params), pole = load<f64>(params, 8);
  const window = <usize>load<f64>(params, 16), delay = <usize>load<f64>(params, 24), lag = <usize>load<f64>(params, 32);
  const gain = f32x4.splat(<f32>load<f64>(params, 40));
  const stride = (capacity + 512) << 2, past = capacity << 2, bytes = n << 2;
  const left = state + 64, right = left + stride, box = right + stride, needed = box + stride, least = needed + stride;
  takeIn(left + past, l, bytes, gain);
  takeIn(right + past, r, bytes, gain);
  const envelope = least + past;
  if (load<f64>(params, 48) != 0) peakEnvelope(left + past, right + past, n, window, ceiling, fine, coarse, work, envelope);
  else sampleEnvelope(left + past, right + past, n, envelope);
  const any = needs(envelope, needed + past, bytes, ceiling);
  let since = load<i32>(state, 20);
  const quiet = !any && <usize>since >= window;
  since = any ? sincePassed(envelope, n, ceiling) : min(since + <i32>n, 1 << 30);
  const sum = load<i64>(state, 40);
  const fromL = left + past - (delay << 2), fromR = right + past - (delay << 2);
  if (quiet && load<f64>(state, 32) < 1e-12 && sum == <i64>window * <i64>ONE) {
    // Unity throughout: the box stays full of ones, the sound is only delayed.
    memory.copy(l, fromL, bytes);
    memory.copy(r, fromR, bytes);
    fillOnes(box + past, n);
    store<f64>(state, 0, 32);
  } else {
    // After a window without peaks all is 1 that the minimum could be of.
    if (quiet) memory.copy(least + past, needed + past, bytes);
    else slidingMinimum(needed, least, capacity, n, window);
    const enter = box + past - (lag << 2);
    releaseGains(least + past, box + past, n, pole, state);
    store<i64>(state, averageGains(enter, enter - (window << 2), least, n, window, sum), 40);
    applyGains(l, r, fromL, fromR, least, n);
  }
  keepLast(left + past, delay, bytes);
  keepLast(right + past, delay, bytes);
  keepLast(box + past, lag + window, bytes);
  keepLast(needed + past, window, bytes);
  store<i32>(state, since, 20);
}

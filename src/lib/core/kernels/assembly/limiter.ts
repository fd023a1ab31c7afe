// Gain stage of a look-ahead limiter: sliding minimum of the needed gain, release, box average, delayed multiply.
// Gains are integers of 2^-30, so that the running sum of the average never drifts and any block size gives the same bits.
//
// params (f64): 0 ceiling (linear), 1 release pole, 2 window (samples), 3 signal delay (samples),
//   4 lag of the gain (samples): the longest window less this one, so that latency never changes
// state: (i32 at 20) samples since a reduction was asked for, (f64 at 32) released gain, (i64 at 40) running sum; from state + 64 five rows of
//   capacity + 512: left, right (f32), box (i32), needed gains (f32), each beginning with its last `capacity` values, and room for minima (f32).
//   capacity: at least longest window + lag + 8 and delay. n ≤ 512.
import { applyGains } from "./gains";

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
  store<f64>(state, 1.0, 32);
  store<i64>(state, <i64>window * <i64>ONE, 40);
  const box = state + 64 + 2 * stride, needed = box + stride;
  for (let i: usize = 0; i < capacity; i++) {
    store<i32>(box + (i << 2), <i32>ONE);
    store<f32>(needed + (i << 2), 1);
  }
}

// @ts-ignore: decorator
@inline function minShifted(p: usize, from: usize, to: usize, shift: usize): void {
  // Backwards, so that what is read has not been changed yet.
  let i = to;
  for (; i >= from + 4; i -= 4) {
    const o = p + ((i - 4) << 2);
    v128.store(o, f32x4.pmin(v128.load(o), v128.load(o - (shift << 2))));
  }
  for (; i > from; i--) {
    const o = p + ((i - 1) << 2);
    store<f32>(o, min(load<f32>(o), load<f32>(o - (shift << 2))));
  }
}

/** The needed gains of the block stand at needed[capacity ...]; leaves in least[capacity ...] the least of the last `window` of each. */
function slidingMinimum(needed: usize, least: usize, capacity: usize, n: usize, window: usize): void {
  const begin = capacity - (window - 1), end = capacity + n;
  memory.copy(least + (begin << 2), needed + (begin << 2), (end - begin) << 2);
  let width: usize = 1;
  while (width * 2 <= window) {
    minShifted(least, begin + width * 2 - 1, end, width);
    width *= 2;
  }
  if (width < window) minShifted(least, capacity, end, window - width);
}

export function limiter(l: usize, r: usize, n: usize, envelope: usize, params: usize, state: usize, capacity: usize): void {
  const ceiling = <f32>load<f64>(params), pole = load<f64>(params, 8);
  const window = <usize>load<f64>(params, 16), delay = <usize>load<f64>(params, 24), lag = <usize>load<f64>(params, 32);
  const stride = (capacity + 512) << 2, past = capacity << 2, bytes = n << 2;
  const left = state + 64, right = left + stride, box = right + stride, needed = box + stride, least = needed + stride;
  let since = load<i32>(state, 20);
  let released = load<f64>(state, 32);
  let sum = load<i64>(state, 40);
  memory.copy(left + past, l, bytes);
  memory.copy(right + past, r, bytes);
  const block = needed + past;
  let any = false;
  const top = f32x4.splat(ceiling), one = f32x4.splat(1);
  for (let o: usize = 0; o < bytes; o += 16) {
    const e = v128.load(envelope + o), over = f32x4.gt(e, top);
    any = any || v128.any_true(over);
    v128.store(block + o, v128.bitselect(f32x4.div(top, e), one, over));
  }
  const fromL = left + past - (delay << 2), fromR = right + past - (delay << 2);
  const idle = !any && <usize>since >= window && released == 1.0 && sum == <i64>window * <i64>ONE;
  if (idle) {
    // Unity throughout: the box stays full of ones, the sound is only delayed.
    memory.copy(l, fromL, bytes);
    memory.copy(r, fromR, bytes);
    for (let i: usize = 0; i < n; i++) store<i32>(box + past + (i << 2), <i32>ONE);
  } else {
    const quiet = !any && <usize>since >= window;
    if (!quiet) slidingMinimum(needed, least, capacity, n, window);
    const minima = least + past;
    for (let i: usize = 0; i < n; i++) {
      const want = quiet ? 1.0 : <f64>load<f32>(minima + (i << 2));
      if (want == released) {
        store<i32>(box + past + (i << 2), whole(released * ONE));
        continue;
      }
      released = want < released ? want : want + (released - want) * pole;
      if (1.0 - released < 1e-12) released = 1.0;
      store<i32>(box + past + (i << 2), whole(released * ONE));
    }
    const scale = 1.0 / (ONE * <f64>window);
    const enter = box + past - (lag << 2), leave = enter - (window << 2), gains = least;
    for (let i: usize = 0; i < n; i++) {
      const o = i << 2;
      sum += <i64>load<i32>(enter + o) - <i64>load<i32>(leave + o);
      store<f32>(gains + o, <f32>(<f64>sum * scale));
    }
    applyGains(l, r, fromL, fromR, gains, n);
  }
  keepLast(left + past, delay, bytes);
  keepLast(right + past, delay, bytes);
  keepLast(box + past, lag + window, bytes);
  keepLast(needed + past, window, bytes);
  if (any) {
    since = 0;
    for (let i = n; i > 0; i--) {
      if (load<f32>(envelope + ((i - 1) << 2)) > ceiling) break;
      since++;
    }
  } else since = min(since + <i32>n, 1 << 30);
  store<i32>(state, since, 20);
  store<f64>(state, released, 32);
  store<i64>(state, sum, 40);
}

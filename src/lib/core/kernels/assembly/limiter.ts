// Gain stage of a look-ahead limiter: sliding minimum of the needed gain, release, box average, delayed multiply.
// Gains are integers of 2^-30, so that the running sum of the average never drifts and any block size gives the same bits.
//
// params (f64): 0 ceiling (linear), 1 release pole, 2 window (samples), 3 signal delay (samples),
//   4 lag of the gain (samples): the longest window less this one, so that latency never changes
// state (i32 unless said): 0 write index of delay line, 4 write index of box, 5 samples since a reduction was asked for,
//   8 (f64 at 32) released gain, (i64 at 40) running sum; then from state + 64: delay line (f32 pairs, `capacity`),
//   box (i32, `capacity`), the last `capacity` needed gains (f32) followed by room for a block of 512 and for the minima of both.
const ONE: f64 = 1073741824.0;

/** Puts the state of a fresh limiter in place: unity gain everywhere. */
export function limiterReset(state: usize, capacity: usize, window: i32): void {
  memory.fill(state, 0, 64 + capacity * 20 + 8192);
  store<i32>(state, 1 << 30, 20);
  store<f64>(state, 1.0, 32);
  store<i64>(state, <i64>window * <i64>ONE, 40);
  const box = state + 64 + (capacity << 3), needed = box + (capacity << 2);
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
  const window = <i32>load<f64>(params, 16), delay = <i32>load<f64>(params, 24);
  const lag = <i32>load<f64>(params, 32);
  const line = state + 64, box = line + (capacity << 3), needed = box + (capacity << 2), least = needed + (capacity << 2) + 2048;
  const cap = <i32>capacity;
  let w = load<i32>(state), b = load<i32>(state, 16);
  let since = load<i32>(state, 20);
  let released = load<f64>(state, 32);
  let sum = load<i64>(state, 40);
  const block = needed + (capacity << 2);
  let any = false;
  for (let i: usize = 0; i < n; i++) {
    const e = load<f32>(envelope + (i << 2));
    if (e > ceiling) {
      any = true;
      store<f32>(block + (i << 2), ceiling / e);
    } else store<f32>(block + (i << 2), 1);
  }
  const quiet = !any && since >= window;
  if (!quiet) slidingMinimum(needed, least, capacity, n, <usize>window);
  const minima = least + (capacity << 2);
  const scale = 1.0 / (ONE * <f64>window);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const want = quiet ? 1.0 : <f64>load<f32>(minima + o);
    released = want < released ? want : want + (released - want) * pole;
    if (1.0 - released < 1e-12) released = 1.0;
    const gain = <i32>(released * ONE);
    store<i32>(box + (<usize>b << 2), gain);
    let enter = b - lag;
    if (enter < 0) enter += cap;
    let leave = enter - window;
    if (leave < 0) leave += cap;
    sum += <i64>load<i32>(box + (<usize>enter << 2)) - <i64>load<i32>(box + (<usize>leave << 2));
    b++;
    if (b == cap) b = 0;
    store<f32>(line + (<usize>w << 3), load<f32>(l + o));
    store<f32>(line + (<usize>w << 3), load<f32>(r + o), 4);
    let q = w - delay;
    if (q < 0) q += cap;
    w++;
    if (w == cap) w = 0;
    const g = <f64>sum * scale;
    store<f32>(l + o, <f32>(<f64>load<f32>(line + (<usize>q << 3)) * g));
    store<f32>(r + o, <f32>(<f64>load<f32>(line + (<usize>q << 3), 4) * g));
  }
  // The needed gains of the last `capacity` samples move to the front.
  memory.copy(needed, needed + (n << 2), capacity << 2);
  if (any) {
    since = 0;
    for (let i = n; i > 0; i--) {
      if (load<f32>(envelope + ((i - 1) << 2)) > ceiling) break;
      since++;
    }
  } else since = min(since + <i32>n, 1 << 30);
  store<i32>(state, w);
  store<i32>(state, b, 16);
  store<i32>(state, since, 20);
  store<f64>(state, released, 32);
  store<i64>(state, sum, 40);
}

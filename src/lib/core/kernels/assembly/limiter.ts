// Gain stage of a look-ahead limiter: sliding minimum of the needed gain, release, box average, delayed multiply.
// Gains are integers of 2^-30, so that the running sum of the average never drifts and any block size gives the same bits.
//
// params (f64): 0 ceiling (linear), 1 release pole, 2 window (samples), 3 signal delay (samples),
//   4 lag of the gain (samples): the longest window less this one, so that latency never changes
// state (i32 unless said): 0 write index of delay line, 1 head of deque, 2 count of deque, 3 clock, 4 write index of box,
//   8 (f64) released gain, 16 (i64) running sum; then from state + 64: delay line (f32 pairs, `capacity`),
//   box (i32, `capacity`), deque values (i32, `capacity`), deque times (i32, `capacity`).
const ONE: f64 = 1073741824.0;

/** Puts the state of a fresh limiter in place: unity gain everywhere. */
export function limiterReset(state: usize, capacity: usize, window: i32): void {
  memory.fill(state, 0, 64 + capacity * 20);
  store<f64>(state, 1.0, 32);
  store<i64>(state, <i64>window * <i64>ONE, 40);
  const box = state + 64 + (capacity << 3);
  for (let i: usize = 0; i < capacity; i++) store<i32>(box + (i << 2), <i32>ONE);
}

export function limiter(l: usize, r: usize, n: usize, envelope: usize, params: usize, state: usize, capacity: usize): void {
  const ceiling = load<f64>(params), pole = load<f64>(params, 8);
  const window = <i32>load<f64>(params, 16), delay = <i32>load<f64>(params, 24);
  const lag = <i32>load<f64>(params, 32);
  const line = state + 64, box = line + (capacity << 3), values = box + (capacity << 2), times = values + (capacity << 2);
  const cap = <i32>capacity;
  let w = load<i32>(state), head = load<i32>(state, 4), count = load<i32>(state, 8), clock = load<i32>(state, 12);
  let b = load<i32>(state, 16);
  let released = load<f64>(state, 32);
  let sum = load<i64>(state, 40);
  const scale = 1.0 / (ONE * <f64>window);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const e = <f64>load<f32>(envelope + o);
    const need = e > ceiling ? <i32>Math.floor((ceiling / e) * ONE) : <i32>ONE;
    // Monotone queue: its head is the least gain that the last `window` samples ask for.
    while (count > 0) {
      let last = head + count - 1;
      if (last >= cap) last -= cap;
      if (load<i32>(values + (<usize>last << 2)) < need) break;
      count--;
    }
    let slot = head + count;
    if (slot >= cap) slot -= cap;
    store<i32>(values + (<usize>slot << 2), need);
    store<i32>(times + (<usize>slot << 2), clock);
    count++;
    if (clock - load<i32>(times + (<usize>head << 2)) >= window) {
      head++;
      if (head == cap) head = 0;
      count--;
    }
    clock++;
    const least = <f64>load<i32>(values + (<usize>head << 2)) / ONE;
    released = least < released ? least : least + (released - least) * pole;
    if (1.0 - released < 1e-12) released = 1.0;
    const gain = <i32>Math.floor(released * ONE);
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
  store<i32>(state, w);
  store<i32>(state, head, 4);
  store<i32>(state, count, 8);
  store<i32>(state, clock, 12);
  store<i32>(state, b, 16);
  store<f64>(state, released, 32);
  store<i64>(state, sum, 40);
}

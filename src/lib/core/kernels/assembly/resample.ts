/**
 * Polyphase FIR. For each output: dot(src[position ...], table[phase]) with `taps` taps (a multiple of 4); then phase += step;
 * position += whole steps. Returns the number of outputs made (stops when `available` inputs are used up).
 * table: phases × taps f32. cursor: i32 position, i32 phase (both updated).
 */
export function resample(src: usize, available: i32, dst: usize, wanted: i32, table: usize, taps: i32, phases: i32, step: i32, cursor: usize): i32 {
  let position = load<i32>(cursor), phase = load<i32>(cursor, 4);
  let made = 0;
  while (made < wanted && position + taps <= available) {
    const row = table + <usize>(phase * taps) * 4;
    const from = src + (<usize>position << 2);
    let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
    let k: usize = 0;
    const end = <usize>taps << 2;
    for (; k + 64 <= end; k += 64) {
      a = f32x4.add(a, f32x4.mul(v128.load(from + k), v128.load(row + k)));
      b = f32x4.add(b, f32x4.mul(v128.load(from + k, 16), v128.load(row + k, 16)));
      c = f32x4.add(c, f32x4.mul(v128.load(from + k, 32), v128.load(row + k, 32)));
      d = f32x4.add(d, f32x4.mul(v128.load(from + k, 48), v128.load(row + k, 48)));
    }
    for (; k < end; k += 16) a = f32x4.add(a, f32x4.mul(v128.load(from + k), v128.load(row + k)));
    a = f32x4.add(f32x4.add(a, b), f32x4.add(c, d));
    store<f32>(
      dst + (<usize>made << 2),
      f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3)),
    );
    made++;
    // By subtraction: a division would take as long as half the taps.
    phase += step;
    while (phase >= phases) {
      phase -= phases;
      position++;
    }
  }
  store<i32>(cursor, position);
  store<i32>(cursor, phase, 4);
  return made;
}

import { across } from "./lanes";

/**
 * Polyphase FIR of two channels, which share the coefficients' loads. For each output: dot(src[position ...], table[phase]) with `taps` taps
 * (a multiple of 8); then phase += step; position += whole steps. Returns the number of outputs made (stops when `available` inputs are used up).
 * table: phases × taps f32. cursor: i32 position, i32 phase (both updated).
 */
export function resamplePair(srcL: usize, srcR: usize, available: i32, dstL: usize, dstR: usize, wanted: i32, table: usize, taps: i32, phases: i32, step: i32, cursor: usize): i32 {
  let position = load<i32>(cursor), phase = load<i32>(cursor, 4);
  let made = 0;
  const end = <usize>taps << 2;
  while (made < wanted && position + taps <= available) {
    const row = table + <usize>(phase * taps) * 4;
    const l = srcL + (<usize>position << 2), r = srcR + (<usize>position << 2);
    let a = f32x4.splat(0), b = f32x4.splat(0), c = f32x4.splat(0), d = f32x4.splat(0);
    for (let k: usize = 0; k < end; k += 32) {
      const x = v128.load(row + k), y = v128.load(row + k, 16);
      a = f32x4.add(a, f32x4.mul(v128.load(l + k), x));
      b = f32x4.add(b, f32x4.mul(v128.load(r + k), x));
      c = f32x4.add(c, f32x4.mul(v128.load(l + k, 16), y));
      d = f32x4.add(d, f32x4.mul(v128.load(r + k, 16), y));
    }
    store<f32>(dstL + (<usize>made << 2), across(f32x4.add(a, c)));
    store<f32>(dstR + (<usize>made << 2), across(f32x4.add(b, d)));
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

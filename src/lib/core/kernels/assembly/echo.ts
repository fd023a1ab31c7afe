// Feedback delay of a stereo pair, wet signal only. The delay is whole samples; damping works in the feedback path alone,
// so the first echo is the input itself.
//
// params (f64): 0 delay (samples, >= 1: the length of the line), 1 feedback, 2 damping (share of the old value, 0 .. 1), 3 ping-pong (0, 1),
//   4 low cut (share, 0 off)
// state: i32 write index; f64x2 at 16: low-pass left, right; f64x2 at 32: low cut; from state + 64: line of f32 pairs.
const QUIET: f64 = 1e-20;

// @ts-ignore: decorator
@inline function keep(x: v128): v128 {
  return v128.bitselect(x, f64x2.splat(0), f64x2.gt(f64x2.abs(x), f64x2.splat(QUIET)));
}

export function echo(l: usize, r: usize, n: i32, params: usize, state: usize): void {
  const size = <i32>load<f64>(params), feedback = f64x2.splat(load<f64>(params, 8)), damp = f64x2.splat(load<f64>(params, 16));
  const ping = load<f64>(params, 24) != 0, cut = f64x2.splat(load<f64>(params, 32));
  const line = state + 64;
  let w = load<i32>(state);
  let f = v128.load(state, 16), h = v128.load(state, 32);
  for (let done = 0; done < n;) {
    // As far as the line's end: no wrapping inside.
    const end = done + min(n - done, size - w);
    let p = line + (<usize>w << 3);
    w += end - done;
    if (w == size) w = 0;
    for (let i = done; i < end; i++) {
      const o = <usize>i << 2;
      const pair = v128.load64_zero(p);
      const out = f64x2.promote_low_f32x4(pair);
      f = keep(f64x2.add(out, f64x2.mul(f64x2.sub(f, out), damp)));
      h = keep(f64x2.add(h, f64x2.mul(f64x2.sub(f, h), cut)));
      let back = f64x2.mul(f64x2.sub(f, h), feedback);
      let x = f64x2.promote_low_f32x4(v128.load32_lane(l + o, v128.load32_lane(r + o, i32x4.splat(0), 1), 0));
      if (ping) {
        // Both sides enter at the left, and each side's echo goes to the other.
        x = f64x2.replace_lane(f64x2.splat((f64x2.extract_lane(x, 0) + f64x2.extract_lane(x, 1)) * 0.5), 1, 0);
        back = i64x2.shuffle(back, back, 1, 0);
      }
      v128.store64_lane(p, f32x4.demote_f64x2_zero(keep(f64x2.add(x, back))), 0);
      v128.store32_lane(l + o, pair, 0);
      v128.store32_lane(r + o, pair, 1);
      p += 8;
    }
    done = end;
  }
  store<i32>(state, w);
  v128.store(state, f, 16);
  v128.store(state, h, 32);
}

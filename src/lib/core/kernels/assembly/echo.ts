// Feedback delay of a stereo pair, wet signal only. Delays are whole samples; damping works in the feedback path alone,
// so the first echo is the input itself.
//
// params (f64): 0 delay left, 1 delay right (samples, >= 1), 2 feedback, 3 damping (share of the old value, 0 .. 1), 4 ping-pong (0, 1),
//   5 line size (samples, > both delays), 6 low cut (share, 0 off)
// state (f64): 0 write index, 1 low-pass left, 2 right, 3 low cut left, 4 right; state + 64: left line (f32), right line (f32)
const QUIET: f64 = 1e-20;

// @ts-ignore: decorator
@inline function keep(x: f64): f64 {
  return Math.abs(x) < QUIET ? 0 : x;
}

export function echo(l: usize, r: usize, n: usize, params: usize, state: usize): void {
  const delayL = <i32>load<f64>(params), delayR = <i32>load<f64>(params, 8), feedback = load<f64>(params, 16);
  const damp = load<f64>(params, 24), ping = load<f64>(params, 32) != 0, size = <i32>load<f64>(params, 40), cut = load<f64>(params, 48);
  const left = state + 64, right = left + (<usize>size << 2);
  let w = <i32>load<f64>(state), fl = load<f64>(state, 8), fr = load<f64>(state, 16), hl = load<f64>(state, 24), hr = load<f64>(state, 32);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    let a = w - delayL, b = w - delayR;
    if (a < 0) a += size;
    if (b < 0) b += size;
    const outL = load<f32>(left + (<usize>a << 2)), outR = load<f32>(right + (<usize>b << 2));
    fl = keep(<f64>outL + (fl - <f64>outL) * damp);
    fr = keep(<f64>outR + (fr - <f64>outR) * damp);
    hl = keep(hl + (fl - hl) * cut);
    hr = keep(hr + (fr - hr) * cut);
    const backL = (fl - hl) * feedback, backR = (fr - hr) * feedback;
    const x = <f64>load<f32>(l + o), y = <f64>load<f32>(r + o);
    const inL = ping ? (x + y) * 0.5 + backR : x + backL;
    const inR = ping ? backL : y + backR;
    store<f32>(left + (<usize>w << 2), <f32>keep(inL));
    store<f32>(right + (<usize>w << 2), <f32>keep(inR));
    store<f32>(l + o, outL);
    store<f32>(r + o, outR);
    w++;
    if (w == size) w = 0;
  }
  store<f64>(state, <f64>w);
  store<f64>(state, fl, 8);
  store<f64>(state, fr, 16);
  store<f64>(state, hl, 24);
  store<f64>(state, hr, 32);
}

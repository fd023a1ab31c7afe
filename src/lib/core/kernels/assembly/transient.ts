// Transient shaper: gain from the distance of envelopes in decibels.
// Stronger attack: two envelopes of equal release, one rising at once and one slowly; their distance marks the attack. Softer attack: two that
// rise at once, one falling fast and one slowly, tell how far the sound has fallen from its hit; it is held down to the hit's new level until it
// falls below that by itself, or lasts. The same distance marks the sustain. Common practice, no source.
//
// params (f64): 0 attack gain dB, 1 sustain gain dB, 2 slow attack pole, 3 fast release pole, 4 slow release pole, 5 span of the attack's distance (dB),
//   6 span of the sustain's, 7 look-ahead samples, 8 line size, 9 smoothing pole, 10 envelope release pole of the attack pair,
//   11 attack pole of what counts as lasting, 12 samples for which a hit's level is remembered
// state (f64): 0 fast rise, 1 slow rise, 2 fast fall, 3 slow fall, 4 gain dB, 5 write index, 6 lasting, 7 level of the hit,
//   8 samples for which it is still remembered; state + 72: line of f32 pairs.
import { fastExp2, fastLog2 } from "./fast";

const DB_PER_OCTAVE: f64 = 6.020599913279624;
const FLOOR: f64 = 1e-6;
// Distance from what lasts at which a hit counts in full, and not at all, dB.
const HIT: f64 = 2;
const LASTS: f64 = 0.5;

// @ts-ignore: decorator
@inline function share(x: f64): f64 {
  return Math.min(1.0, Math.max(0.0, x));
}

/** Gain in dB, below 0, of a hit that shall be softer by `attackDb`: how far it stands over what lasts, and how far it has fallen. */
// @ts-ignore: decorator
@inline function softer(attackDb: f64, over: f64, fallen: f64): f64 {
  return Math.max(attackDb * share((over - LASTS) / (HIT - LASTS)), Math.min(0.0, attackDb + fallen));
}

export function transient(l: usize, r: usize, n: usize, params: usize, state: usize): void {
  const attackDb = load<f64>(params), sustainDb = load<f64>(params, 8), rise = load<f64>(params, 16);
  const fall = load<f64>(params, 24), slowFall = load<f64>(params, 32), attackSpan = load<f64>(params, 40), sustainSpan = load<f64>(params, 48);
  const ahead = <i32>load<f64>(params, 56), size = <i32>load<f64>(params, 64), smoothing = load<f64>(params, 72), back = load<f64>(params, 80), lasting = load<f64>(params, 88);
  const remembered = load<f64>(params, 96);
  const line = state + 72;
  let a = load<f64>(state), b = load<f64>(state, 8), c = load<f64>(state, 16), d = load<f64>(state, 24), g = load<f64>(state, 32);
  let w = <i32>load<f64>(state, 40), e = load<f64>(state, 48), h = load<f64>(state, 56), left = load<f64>(state, 64);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const x = load<f32>(l + o), y = load<f32>(r + o);
    const level = Math.max(FLOOR, <f64>max(abs(x), abs(y)));
    a = level > a ? level : level + (a - level) * back;
    b = a > b ? a + (b - a) * rise : level + (b - level) * back;
    if (b > a) b = a;
    c = level > c ? level : level + (c - level) * fall;
    d = level > d ? level : level + (d - level) * slowFall;
    const fallen = fastLog2(d / c) * DB_PER_OCTAVE;
    let target = sustainDb * share(fallen / sustainSpan);
    if (attackDb > 0) target += attackDb * share((fastLog2(a / Math.max(FLOOR, b)) * DB_PER_OCTAVE) / attackSpan);
    else if (attackDb < 0) {
      e = d > e ? d + (e - d) * lasting : level + (e - level) * slowFall;
      if (level >= h) {
        h = level;
        left = remembered;
      } else if (left > 0) left--;
      else h = level + (h - level) * slowFall;
      target += softer(attackDb, fastLog2(d / Math.max(FLOOR, e)) * DB_PER_OCTAVE, fastLog2(h / c) * DB_PER_OCTAVE);
    }
    g = target + (g - target) * smoothing;
    const slot = line + (<usize>w << 3);
    store<f32>(slot, x);
    store<f32>(slot, y, 4);
    let q = w - ahead;
    if (q < 0) q += size;
    w++;
    if (w == size) w = 0;
    const k = fastExp2(g / DB_PER_OCTAVE);
    const out = line + (<usize>q << 3);
    store<f32>(l + o, <f32>(<f64>load<f32>(out) * k));
    store<f32>(r + o, <f32>(<f64>load<f32>(out, 4) * k));
  }
  store<f64>(state, a);
  store<f64>(state, b, 8);
  store<f64>(state, c, 16);
  store<f64>(state, d, 24);
  store<f64>(state, g, 32);
  store<f64>(state, <f64>w, 40);
  store<f64>(state, e, 48);
  store<f64>(state, h, 56);
  store<f64>(state, left, 64);
}

/** Puts the envelopes at their floor. */
export function transientReset(state: usize): void {
  for (let i: usize = 0; i < 4; i++) store<f64>(state + (i << 3), FLOOR);
  store<f64>(state, FLOOR, 48);
  store<f64>(state, FLOOR, 56);
}

/**
 * De-esser's gain: the band is turned down by up to `amount` dB as far as its level passes the threshold, and added back to the rest.
 * params (f64): 0 threshold dB, 1 slope (1 - 1/ratio), 2 amount dB (> 0), 3 attack pole, 4 release pole, 5 detector release pole.
 * state (f64): 0 detector, 1 gain dB. l, r: the delayed signal; bandL, bandR: its band.
 */
export function deEss(l: usize, r: usize, bandL: usize, bandR: usize, n: usize, params: usize, state: usize): void {
  const threshold = load<f64>(params), slope = load<f64>(params, 8), amount = load<f64>(params, 16);
  const attack = load<f64>(params, 24), release = load<f64>(params, 32), pole = load<f64>(params, 40);
  const floor = fastExp2(threshold / DB_PER_OCTAVE);
  let held = load<f64>(state), g = load<f64>(state, 8);
  for (let i: usize = 0; i < n; i++) {
    const o = i << 2;
    const x = load<f32>(bandL + o), y = load<f32>(bandR + o);
    const level = <f64>max(abs(x), abs(y));
    held = level > held ? level : held * pole;
    if (held < 1e-30) held = 0;
    let target: f64 = 0;
    if (held > floor) target = Math.max(-amount, (threshold - fastLog2(held) * DB_PER_OCTAVE) * slope);
    g = target + (g - target) * (target < g ? attack : release);
    if (g > -1e-6) g = 0;
    if (g != 0) {
      const k = <f32>(fastExp2(g / DB_PER_OCTAVE) - 1.0);
      store<f32>(l + o, load<f32>(l + o) + x * k);
      store<f32>(r + o, load<f32>(r + o) + y * k);
    }
  }
  store<f64>(state, held);
  store<f64>(state, g, 8);
}

// Voices of a delay that a sine moves: chorus and flanger. The dry sound comes as late as a reading between samples makes the wet one.
// Reading between samples: a Farrow structure (audio/fractionalDelay.ts). Its filters do not depend on the delay, so they run once for all
// voices as the sound comes in; what they give lies in lines of their own, and each voice reads there a polynomial of the way between samples.
//
// params: i32 voices, i32 frames of a line that are used, i32 frames that can be computed before their output is needed; f64 from 16: middle of
//   the delay (samples, counted from 11/2 before the frame), cos, sin of the sine's step for four samples, 3 × 2^51 (adding it rounds a
//   double to a whole number, which lies in its low bits); f32x4 from 48: cos - 1, sin of the
//   way of its phase from the middle of four frames to each of them; f32 from 80: shares of a voice and of the dry sound in the output, and of
//   a voice in the feedback.
// taps: for each power of the way between samples its pairs, from the middle outwards, each as f32x4 of four equal lanes.
// state: i32 frame to write, i32 its place in the four that are read at once; from 16 for each voice two f64x2: depth (samples) times cos and
//   sin of the phases of left and right in the middle of the four; then the voices' sums and where they are
//   read; then of each side the sound and the filters' lines.
import { quiet } from "./lanes";

// Delay of the dry sound, bytes.
const DRY: usize = 24;
// Bytes from a frame back to the earliest of the 12 that are read with it.
const EARLIEST: usize = 44;
// Frames at a time, so that the sums stay in the nearest cache.
const BLOCK: usize = 256;
const PHASES: usize = 16;
const VOICES: usize = 6;
const SUMS: usize = PHASES + VOICES * 32;
// Up to three frames before the block and after it are read with it.
const SUMS_BYTES: usize = (BLOCK + 8) * 4;
const PLACES: usize = SUMS + SUMS_BYTES * 2;
const LINES: usize = PLACES + (BLOCK / 4 + 2) * 48;
// Bytes from line to line. A multiple of 4096 would make the lines take each other's places in the cache.
const LINE: usize = 81920 + 320;
// The sound and six powers.
const SIDE: usize = 7 * LINE;
// Ways between samples that the polynomials are made for: a little more than half of one, so that most fours need but one place in the lines.
const FAR: f32 = 0.55;

/** Where the lines are full, their last `keep` frames move to the beginning. Returns the frame to write. */
function makeRoom(lines: usize, w: usize, n: usize, length: usize, keep: usize): usize {
  if (w + n <= length) return w;
  const from = (w - keep) << 2;
  for (const end = lines + 2 * SIDE; lines < end; lines += LINE) memory.copy(lines, lines + from, keep << 2);
  return keep;
}

// @ts-ignore: decorator
@inline function three(a: v128, b: v128, c: v128, taps: usize): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(a, v128.load(taps)), f32x4.mul(b, v128.load(taps, 16))), f32x4.mul(c, v128.load(taps, 32)));
}

// @ts-ignore: decorator
@inline function five(a: v128, b: v128, c: v128, d: v128, e: v128, taps: usize): v128 {
  const outer = f32x4.add(f32x4.mul(d, v128.load(taps, 48)), f32x4.mul(e, v128.load(taps, 64)));
  return f32x4.add(three(a, b, c, taps), outer);
}

// @ts-ignore: decorator
@inline function six(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128, taps: usize): v128 {
  return f32x4.add(three(a, b, c, taps), three(d, e, f, taps + 48));
}

/** The filters' lines from the sound's frame at `x`, n frames and up to three that are made anew later. */
function filters(x: usize, n: usize, taps: usize): void {
  // From the earliest sample on: addresses with what is added to them are cheaper than with what is taken away.
  x -= EARLIEST;
  for (const end = x + (n << 2); x < end; x += 16) {
    // Even powers have symmetric filters, odd powers antisymmetric ones.
    let a = f32x4.add(v128.load(x, 20), v128.load(x, 24)), b = f32x4.add(v128.load(x, 16), v128.load(x, 28)), c = f32x4.add(v128.load(x, 12), v128.load(x, 32));
    let d = f32x4.add(v128.load(x, 8), v128.load(x, 36)), e = f32x4.add(v128.load(x, 4), v128.load(x, 40)), f = f32x4.add(v128.load(x), v128.load(x, 44));
    v128.store(x, six(a, b, c, d, e, f, taps), LINE + EARLIEST);
    v128.store(x, six(a, b, c, d, e, f, taps + 192), 3 * LINE + EARLIEST);
    v128.store(x, five(a, b, c, d, e, taps + 368), 5 * LINE + EARLIEST);
    a = f32x4.sub(v128.load(x, 20), v128.load(x, 24));
    b = f32x4.sub(v128.load(x, 16), v128.load(x, 28));
    c = f32x4.sub(v128.load(x, 12), v128.load(x, 32));
    d = f32x4.sub(v128.load(x, 8), v128.load(x, 36));
    e = f32x4.sub(v128.load(x, 4), v128.load(x, 40));
    f = f32x4.sub(v128.load(x), v128.load(x, 44));
    v128.store(x, six(a, b, c, d, e, f, taps + 96), 2 * LINE + EARLIEST);
    v128.store(x, five(a, b, c, d, e, taps + 288), 4 * LINE + EARLIEST);
    v128.store(x, three(a, b, c, taps + 448), 6 * LINE + EARLIEST);
  }
}

/**
 * Where n fours of a voice are read; its phases go on by `whole` of them. For each four into `places`: the ways between samples of left and
 * right, and how many bytes back both lie, in lanes 0 and 2. Returns whether some four lie too far apart to be read at one place.
 */
function move(places: usize, n: usize, whole: usize, params: usize, phases: usize): bool {
  // Loaded as vectors: the engine would make them anew from numbers for each frame.
  const delay = v128.load64_splat(params, 16), stepC = v128.load64_splat(params, 24), stepS = v128.load64_splat(params, 32);
  const round = v128.load64_splat(params, 40), onC = v128.load(params, 48), onS = v128.load(params, 64);
  let c = v128.load(phases), s = v128.load(phases, 16), far = f32x4.splat(0);
  for (let i: usize = 0; i < n; i++, places += 48) {
    if (i == whole) {
      v128.store(phases, c);
      v128.store(phases, s, 16);
    }
    const at = f64x2.add(s, delay), fixed = f64x2.add(at, round);
    const way = f32x4.demote_f64x2_zero(f64x2.sub(at, f64x2.sub(fixed, round)));
    const cos = f32x4.demote_f64x2_zero(c), sin = f32x4.demote_f64x2_zero(s);
    const l = f32x4.add(f32x4.mul(i32x4.shuffle(sin, sin, 0, 0, 0, 0), onC), f32x4.mul(i32x4.shuffle(cos, cos, 0, 0, 0, 0), onS));
    const r = f32x4.add(f32x4.mul(i32x4.shuffle(sin, sin, 1, 1, 1, 1), onC), f32x4.mul(i32x4.shuffle(cos, cos, 1, 1, 1, 1), onS));
    const f = f32x4.add(l, i32x4.shuffle(way, way, 0, 0, 0, 0)), g = f32x4.add(r, i32x4.shuffle(way, way, 1, 1, 1, 1));
    v128.store(places, f);
    v128.store(places, g, 16);
    v128.store(places, i32x4.shl(fixed, 2), 32);
    far = f32x4.pmax(far, f32x4.pmax(f32x4.mul(f, f), f32x4.mul(g, g)));
    const next = f64x2.sub(f64x2.mul(c, stepC), f64x2.mul(s, stepS));
    s = f64x2.add(f64x2.mul(s, stepC), f64x2.mul(c, stepS));
    c = next;
  }
  if (n == whole) {
    v128.store(phases, c);
    v128.store(phases, s, 16);
  }
  return v128.any_true(f32x4.gt(far, f32x4.splat(FAR * FAR)));
}

/** The polynomials of four frames; x: their place in the sound's line, f: the ways between samples. */
// @ts-ignore: decorator
@inline function polynomials(x: usize, f: v128): v128 {
  const square = f32x4.mul(f, f);
  const evens = f32x4.add(f32x4.mul(v128.load(x, 5 * LINE), square), v128.load(x, 3 * LINE));
  const odds = f32x4.add(f32x4.mul(v128.load(x, 6 * LINE), square), v128.load(x, 4 * LINE));
  const even = f32x4.add(f32x4.mul(evens, square), v128.load(x, LINE)), odd = f32x4.add(f32x4.mul(odds, square), v128.load(x, 2 * LINE));
  return f32x4.add(f32x4.mul(odd, f), even);
}

/** The same where the four lie between different samples. */
function scattered(x: usize, f: v128): v128 {
  const whole = f32x4.nearest(f), way = f32x4.sub(f, whole), steps = i32x4.trunc_sat_f32x4_s(whole);
  const a = i32x4.extract_lane(steps, 0), b = i32x4.extract_lane(steps, 1), c = i32x4.extract_lane(steps, 2), d = i32x4.extract_lane(steps, 3);
  let y = polynomials(x - (a << 2), way);
  if (b != a) y = i32x4.shuffle(y, polynomials(x - (b << 2), way), 0, 5, 6, 7);
  if (c != b) y = i32x4.shuffle(y, polynomials(x - (c << 2), way), 0, 1, 6, 7);
  if (d != c) y = i32x4.shuffle(y, polynomials(x - (d << 2), way), 0, 1, 2, 7);
  return y;
}

/** n fours of one side of a voice on top of the sums, all of them at one place or not. x: where the first lies in the sound's line. */
function read(sums: usize, n: usize, x: usize, places: usize, back: usize): void {
  for (const end = sums + (n << 4); sums < end; sums += 16, x += 16, places += 48)
    v128.store(sums, f32x4.add(v128.load(sums), polynomials(x - load<i32>(back + places), v128.load(places))));
}

function readScattered(sums: usize, n: usize, x: usize, places: usize, back: usize): void {
  for (const end = sums + (n << 4); sums < end; sums += 16, x += 16, places += 48) {
    const from = x - load<i32>(back + places), f = v128.load(places);
    const y = v128.any_true(f32x4.gt(f32x4.mul(f, f), f32x4.splat(FAR * FAR))) ? scattered(from, f) : polynomials(from, f);
    v128.store(sums, f32x4.add(v128.load(sums), y));
  }
}

/** The voices' sums go out, with the dry sound, which lies DRY bytes back in the line. */
function mixed(x: usize, n: usize, line: usize, sums: usize, wet: v128, dry: v128): void {
  let o: usize = 0;
  for (; o + 16 <= n << 2; o += 16) {
    v128.store(x + o, f32x4.add(f32x4.mul(v128.load(sums + o), wet), f32x4.mul(v128.load(line + o - DRY), dry)));
  }
  for (; o < n << 2; o += 4) {
    const y = v128.load32_zero(sums + o);
    v128.store32_lane(x + o, f32x4.add(f32x4.mul(y, wet), f32x4.mul(v128.load32_zero(line + o - DRY), dry)), 0);
  }
}

/** The voices' sums go out, and with their feedback into the line. */
function fedBack(x: usize, n: usize, line: usize, sums: usize, wet: v128, feedback: v128): void {
  for (let o: usize = 0; o < n << 2; o += 4) {
    const y = v128.load32_zero(sums + o);
    v128.store32_lane(line + o, quiet(f32x4.add(v128.load32_zero(line + o), f32x4.mul(y, feedback))), 0);
    v128.store32_lane(x + o, f32x4.mul(y, wet), 0);
  }
}

/** keep: frames back from the one to write that are read. With feedback the wet signal alone. */
export function modulatedDelay(l: usize, r: usize, n: usize, params: usize, state: usize, taps: usize, keep: usize): void {
  const voices = <usize>load<i32>(params), length = <usize>load<i32>(params, 4), reach = min(BLOCK, <usize>load<i32>(params, 8));
  const wet = v128.load32_splat(params, 80), dry = v128.load32_splat(params, 84), feedback = v128.load32_splat(params, 88);
  const phases = state + PHASES, sums = state + SUMS, places = state + PLACES, lines = state + LINES, feeds = load<f32>(params, 88) != 0;
  let w = <usize>load<i32>(state), before = <usize>load<i32>(state, 4);
  while (n > 0) {
    const m = min(n, reach);
    w = makeRoom(lines, w, m, length, keep);
    const left = lines + (w << 2), right = left + SIDE;
    memory.copy(left, l, m << 2);
    memory.copy(right, r, m << 2);
    if (!feeds) {
      filters(left, m, taps);
      filters(right, m, taps);
    }
    const frames = before + m, whole = frames >> 2, fours = (frames + 3) >> 2, first = left - (before << 2);
    memory.fill(sums, 0, fours << 4);
    memory.fill(sums + SUMS_BYTES, 0, fours << 4);
    for (let v: usize = 0; v < voices; v++) {
      if (move(places, fours, whole, params, phases + (v << 5))) {
        readScattered(sums, fours, first, places, 32);
        readScattered(sums + SUMS_BYTES, fours, first + SIDE, places + 16, 24);
      } else {
        read(sums, fours, first, places, 32);
        read(sums + SUMS_BYTES, fours, first + SIDE, places + 16, 24);
      }
    }
    const sumL = sums + (before << 2), sumR = sumL + SUMS_BYTES;
    if (feeds) {
      fedBack(l, m, left, sumL, wet, feedback);
      fedBack(r, m, right, sumR, wet, feedback);
      filters(left, m, taps);
      filters(right, m, taps);
    } else {
      mixed(l, m, left, sumL, wet, dry);
      mixed(r, m, right, sumR, wet, dry);
    }
    l += m << 2;
    r += m << 2;
    w += m;
    n -= m;
    before = frames & 3;
  }
  store<i32>(state, <i32>w);
  store<i32>(state, <i32>before, 4);
}

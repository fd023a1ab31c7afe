// Interleaved integer or float PCM (little endian) to planar f32 and back.
// dst: first channel's block; channels lie `stride` bytes apart.

/** Four stereo frames at a time: the two bytes of a sample become the upper two of a lane. Returns the frames done. */
function stereoFromInt16(src: usize, frames: usize, dst: usize, stride: usize): usize {
  const scale = f32x4.splat(0.000030517578125);
  let i: usize = 0;
  for (; i + 4 <= frames; i += 4) {
    const x = v128.load(src + (i << 2));
    v128.store(dst + (i << 2), f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(i32x4.shl(x, 16), 16)), scale));
    v128.store(dst + stride + (i << 2), f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(x, 16)), scale));
  }
  return i;
}

export function fromInt16(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  if (channels == 2) {
    const done = stereoFromInt16(src, frames, dst, stride);
    src += done << 2;
    dst += done << 2;
    frames -= done;
  }
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), <f32>load<i16>(src + ((i * channels + c) << 1)) * 0.000030517578125);
}

/** Four stereo frames at a time: the three bytes of a sample become the upper three of a lane. Returns the frames done. */
function stereoFromInt24(src: usize, frames: usize, dst: usize, stride: usize): usize {
  const scale = f32x4.splat(1.1920928955078125e-7);
  let i: usize = 0;
  // The second load reaches 24 bytes on; both stay inside what there is.
  for (; i + 4 <= frames; i += 4) {
    const p = src + i * 6;
    const a = v128.load(p), b = v128.load(p, 8);
    const l = i8x16.shuffle(a, b, 0, 0, 1, 2, 0, 6, 7, 8, 0, 12, 13, 14, 0, 26, 27, 28);
    const r = i8x16.shuffle(a, b, 0, 3, 4, 5, 0, 9, 10, 11, 0, 23, 24, 25, 0, 29, 30, 31);
    v128.store(dst + (i << 2), f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(l, 8)), scale));
    v128.store(dst + stride + (i << 2), f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(r, 8)), scale));
  }
  return i;
}

export function fromInt24(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  const step = channels * 3;
  if (channels == 2) {
    const done = stereoFromInt24(src, frames, dst, stride);
    src += done * 6;
    dst += done << 2;
    frames -= done;
  }
  for (let c: usize = 0; c < channels; c++) {
    let p = src + c * 3;
    for (let i: usize = 0; i < frames; i++) {
      const v = (<i32>load<u16>(p) << 8) | (<i32>load<u8>(p, 2) << 24);
      store<f32>(dst + c * stride + (i << 2), <f32>(v >> 8) * 1.1920928955078125e-7);
      p += step;
    }
  }
}

export function fromInt32(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), <f32>(<f64>load<i32>(src + ((i * channels + c) << 2)) * 4.656612873077393e-10));
}

/** 8-bit WAV is unsigned, silence at 128. */
export function fromUint8(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), (<f32>load<u8>(src + i * channels + c) - 128.0) * 0.0078125);
}

/** Four stereo frames at a time. Returns the frames done. */
function stereoFromFloat32(src: usize, frames: usize, dst: usize, stride: usize): usize {
  let i: usize = 0;
  for (; i + 4 <= frames; i += 4) {
    const a = v128.load(src + (i << 3)), b = v128.load(src + (i << 3), 16);
    v128.store(dst + (i << 2), i32x4.shuffle(a, b, 0, 2, 4, 6));
    v128.store(dst + stride + (i << 2), i32x4.shuffle(a, b, 1, 3, 5, 7));
  }
  return i;
}

export function fromFloat32(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  if (channels == 2) {
    const done = stereoFromFloat32(src, frames, dst, stride);
    src += done << 3;
    dst += done << 2;
    frames -= done;
  }
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), load<f32>(src + ((i * channels + c) << 2)));
}

export function fromFloat64(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), <f32>load<f64>(src + ((i * channels + c) << 3)));
}

// Two draws of a 32-bit xorshift make triangular noise of ±1 LSB.
// @ts-ignore: decorator
@inline function next(s: u32): u32 {
  s ^= s << 13;
  s ^= s >> 17;
  s ^= s << 5;
  return s;
}

// @ts-ignore: decorator
@inline function quantize(x: f64, full: f64, dither: f64): i32 {
  const v = Math.floor(x * full + dither + 0.5);
  return <i32>Math.max(-full, Math.min(full - 1.0, v));
}

// @ts-ignore: decorator
@inline function whole24(p: usize): v128 {
  const v = f32x4.nearest(f32x4.mul(v128.load(p), f32x4.splat(8388608)));
  return i32x4.trunc_sat_f32x4_s(f32x4.pmax(f32x4.splat(-8388608), f32x4.pmin(f32x4.splat(8388607), v)));
}

/** Four stereo frames at a time, rounded without dither. Returns the frames done. */
function stereoToInt24(src: usize, stride: usize, frames: usize, dst: usize): usize {
  let i: usize = 0;
  for (; i + 4 <= frames; i += 4) {
    const l = whole24(src + (i << 2)), r = whole24(src + stride + (i << 2));
    const p = dst + i * 6;
    v128.store(p, i8x16.shuffle(l, r, 0, 1, 2, 16, 17, 18, 4, 5, 6, 20, 21, 22, 8, 9, 10, 24));
    v128.store64_lane(p, i8x16.shuffle(l, r, 25, 26, 12, 13, 14, 28, 29, 30, 0, 0, 0, 0, 0, 0, 0, 0), 0, 16);
  }
  return i;
}

// Frames that are dithered together, or not at all.
const STRETCH: usize = 64;

/** Whether a depth holds samples exactly: nothing was computed on them since they were of that depth. */
function held(src: usize, stride: usize, frames: usize, channels: usize, full: f64): bool {
  for (let c: usize = 0; c < channels; c++)
    for (let p = src + c * stride, end = p + (frames << 2); p < end; p += 4) {
      const x = <f64>load<f32>(p) * full;
      if (x != nearest(x) || x < -full || x > full - 1) return false;
    }
  return true;
}

/**
 * TPDF dither when seed != 0, but where 64 frames (counted from the first) lie on steps of the output: these are written as they are. Returns the
 * seed for the next block. bytes: 2 or 3 a sample.
 */
export function toInt(src: usize, stride: usize, frames: usize, channels: usize, dst: usize, bytes: usize, seed: u32): u32 {
  const full: f64 = bytes == 2 ? 32768.0 : 8388608.0;
  let s = seed;
  let p = dst;
  if (channels == 2 && bytes == 3 && seed == 0) {
    const done = stereoToInt24(src, stride, frames, dst);
    p += done * 6;
    src += done << 2;
    frames -= done;
  }
  let dithered = false;
  for (let i: usize = 0; i < frames; i++) {
    if (s != 0 && i % STRETCH == 0) dithered = !held(src + (i << 2), stride, min(STRETCH, frames - i), channels, full);
    for (let c: usize = 0; c < channels; c++) {
      let d: f64 = 0;
      if (dithered) {
        s = next(s);
        const a = <f64>s;
        s = next(s);
        d = (a - <f64>s) * 2.3283064365386963e-10;
      }
      const v = quantize(<f64>load<f32>(src + c * stride + (i << 2)), full, d);
      store<u16>(p, <u16>v);
      if (bytes == 3) store<u8>(p, <u8>(v >> 16), 2);
      p += bytes;
    }
  }
  return s;
}

// @ts-ignore: decorator
@inline function shaping(tap: i32): f64 {
  return tap == 0 ? 2.033 : tap == 1 ? -2.165 : tap == 2 ? 1.959 : tap == 3 ? -1.59 : 0.6149;
}

/**
 * 16 bit with TPDF dither whose noise is moved to where ears hear least (filter of five taps for 44.1 and 48 kHz: S. P. Lipshitz, J. Vanderkooy,
 * R. A. Wannamaker, "Minimally Audible Noise Shaping", J. Audio Eng. Soc. 39, 1991). Exact samples as with toInt. Returns the seed for the next block.
 * errors: f64 × 5 for each channel, zero at the start.
 */
export function toInt16Shaped(src: usize, stride: usize, frames: usize, channels: usize, dst: usize, seed: u32, errors: usize): u32 {
  let s = seed;
  let p = dst;
  let dithered = false;
  for (let i: usize = 0; i < frames; i++) {
    if (i % STRETCH == 0) dithered = !held(src + (i << 2), stride, min(STRETCH, frames - i), channels, 32768.0);
    for (let c: usize = 0; c < channels; c++) {
      const e = errors + c * 40;
      let wanted = <f64>load<f32>(src + c * stride + (i << 2)) * 32768.0;
      let d: f64 = 0;
      if (dithered) {
        for (let k = 0; k < 5; k++) wanted -= shaping(k) * load<f64>(e + (k << 3));
        s = next(s);
        const a = <f64>s;
        s = next(s);
        d = (a - <f64>s) * 2.3283064365386963e-10;
      }
      const v = quantize(wanted * 3.0517578125e-5, 32768.0, d);
      memory.copy(e + 8, e, 32);
      // A sample that was clipped leaves no error to make good: it would ring.
      store<f64>(e, Math.max(-2.0, Math.min(2.0, <f64>v - wanted)));
      store<u16>(p, <u16>v);
      p += 2;
    }
  }
  return s;
}

export function toFloat32(src: usize, stride: usize, frames: usize, channels: usize, dst: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + ((i * channels + c) << 2), load<f32>(src + c * stride + (i << 2)));
}

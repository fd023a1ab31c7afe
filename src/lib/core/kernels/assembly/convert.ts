// Interleaved integer or float PCM (little endian) to planar f32 and back.
// dst: first channel's block; channels lie `stride` bytes apart.

export function fromInt16(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + c * stride + (i << 2), <f32>load<i16>(src + ((i * channels + c) << 1)) * 0.000030517578125);
}

export function fromInt24(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
  const step = channels * 3;
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

export function fromFloat32(src: usize, frames: usize, channels: usize, dst: usize, stride: usize): void {
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

/** TPDF dither when seed != 0. Returns the seed for the next block. bytes: 2 or 3 a sample. */
export function toInt(src: usize, stride: usize, frames: usize, channels: usize, dst: usize, bytes: usize, seed: u32): u32 {
  const full: f64 = bytes == 2 ? 32768.0 : 8388608.0;
  let s = seed;
  let p = dst;
  for (let i: usize = 0; i < frames; i++)
    for (let c: usize = 0; c < channels; c++) {
      let d: f64 = 0;
      if (s != 0) {
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
  return s;
}

export function toFloat32(src: usize, stride: usize, frames: usize, channels: usize, dst: usize): void {
  for (let c: usize = 0; c < channels; c++)
    for (let i: usize = 0; i < frames; i++)
      store<f32>(dst + ((i * channels + c) << 2), load<f32>(src + c * stride + (i << 2)));
}

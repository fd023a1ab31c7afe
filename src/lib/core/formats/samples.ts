// Bytes of a file to planar f32 in the kernels' memory and back.
import { kernels } from "../kernels/instance";
import type { OutputFormat } from "./wavWriter";
import type { SampleKind } from "./wavReader";

const DECODERS = {
  uint8: kernels.fromUint8,
  int16: kernels.fromInt16,
  int24: kernels.fromInt24,
  int32: kernels.fromInt32,
  float32: kernels.fromFloat32,
  float64: kernels.fromFloat64
};

/**
 * Interleaved samples at address `src` to planar f32: channel c at `dst + c × stride` bytes. Integers become ±1, full scale 2^(bits-1).
 */
export function decodeSamples(
  kind: SampleKind,
  src: number,
  frames: number,
  channels: number,
  dst: number,
  stride: number
): void {
  DECODERS[kind](src, frames, channels, dst, stride);
}

/** Seed of the dither of a new file: fixed, so that the same export gives the same bytes. */
export const DITHER_SEED = 0x2f6e2b1;

/** How what was computed is rounded to whole steps: not at all dithered, with triangular noise, or with such noise moved to where ears hear least. */
export type Dither = "none" | "triangular" | "shaped";

/** Whether noise is moved: the filter is made for 16 bit at these rates. */
export function shapes(dither: Dither, format: OutputFormat, sampleRate: number): boolean {
  return dither === "shaped" && format === "int16" && (sampleRate === 44100 || sampleRate === 48000);
}

/** Bytes of what noise shaping remembers of each channel. */
export const SHAPING_BYTES = 40;

/**
 * Planar f32 to interleaved bytes at address `dst`. Integers are rounded and clipped; with a seed other than 0, triangular dither of
 * ±1 LSB is added first where something was computed: 64 frames that the depth holds exactly are written as they are (R. A. Wannamaker et al., "A Theory of Nonsubtractive Dither", IEEE Trans. Signal Processing 48, 2000).
 * @param errors address of what noise shaping remembers, 0 at first; 0: the noise stays flat
 * @returns the seed for the next block
 */
export function encodeSamples(
  format: OutputFormat,
  src: number,
  stride: number,
  frames: number,
  channels: number,
  dst: number,
  seed: number,
  errors = 0
): number {
  if (format === "float32") {
    kernels.toFloat32(src, stride, frames, channels, dst);
    return seed;
  }
  if (errors !== 0) return kernels.toInt16Shaped(src, stride, frames, channels, dst, seed, errors) >>> 0;
  return kernels.toInt(src, stride, frames, channels, dst, format === "int16" ? 2 : 3, seed) >>> 0;
}

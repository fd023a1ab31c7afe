import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import type { WavFile } from "./wavFile";

export const BLOCK_FRAMES = 1 << 16;

/** Visits a whole file in planar blocks of at most 65536 frames. */
export function eachBlock(
  file: WavFile,
  visit: (planar: KernelBuffer, stride: number, frames: number, at: number) => void
): void {
  const { channels, frames } = file.layout;
  const stride = BLOCK_FRAMES * 4;
  const planar = new KernelBuffer(stride * channels);
  try {
    for (let at = 0; at < frames; at += BLOCK_FRAMES) {
      const n = file.read(at, BLOCK_FRAMES, planar.ptr, stride);
      visit(planar, stride, n, at);
    }
  } finally {
    planar.release();
  }
}

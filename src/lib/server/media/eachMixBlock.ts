// What a document's mix sounds like, computed from its recordings' files.
import { BLOCK } from "$lib/core/audio/block";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import type { Document } from "$lib/core/session/document";
import { FileSource, type RecordingFiles } from "./fileSource";

/** From one channel of a block to the next, bytes. */
export const MIX_STRIDE = BLOCK * 4;

/**
 * Computes a stretch of the mix, block by block.
 * @param from first frame; `to`: the one after the last
 * @param take gets the address of the left channel's f32 block in the kernels' memory, the right one `MIX_STRIDE` behind it, and its frames
 * @param tick gets the share that is done, 0 to 1
 */
export function eachMixBlock(
  document: Document,
  files: RecordingFiles,
  { from, to }: { readonly from: number; readonly to: number },
  take: (left: number, frames: number) => void,
  tick: (share: number) => void
): void {
  const source = new FileSource(files, document.sampleRate);
  const mix = new MixStream(new Plan(document), source, from);
  const planar = new KernelBuffer(2 * MIX_STRIDE);
  try {
    for (let at = from; at < to; at += BLOCK) {
      const frames = Math.min(BLOCK, to - at);
      mix.read(planar.ptr, planar.ptr + MIX_STRIDE, frames);
      take(planar.ptr, frames);
      tick((at + frames - from) / (to - from));
    }
  } finally {
    mix.release();
    source.close();
    planar.release();
  }
}

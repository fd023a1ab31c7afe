// A recording at another rate.
import { Resampler, resampledLength, type Made } from "$lib/core/audio/resampler";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK_FRAMES, eachBlock } from "./eachBlock";
import { WavFile, WavWriter } from "./wavFile";

/** Writes a file at another rate, as 32-bit float. `target` must not be there yet. Returns its frames. */
export function conform(
  file: string,
  sampleRate: number,
  target: string,
  tick: (share: number) => void
): number {
  const source = new WavFile(file);
  const { channels, frames, sampleRate: from } = source.layout;
  const length = resampledLength(frames, from, sampleRate);
  const writer = new WavWriter(target, "float32", channels, sampleRate, "none");
  // Channels go through in pairs; the last of an odd number goes with itself.
  const pairs = Array.from({ length: Math.ceil(channels / 2) }, (_, i) => ({
    resampler: new Resampler(from, sampleRate),
    left: 2 * i,
    right: Math.min(channels - 1, 2 * i + 1)
  }));
  const room = Math.ceil((BLOCK_FRAMES * sampleRate) / from) + 8192;
  const out = new KernelBuffer(room * 4 * channels);
  let written = 0;
  /** Lets every pair work and writes what they made: all make as many frames. */
  const round = (work: (pair: (typeof pairs)[number], take: Made) => void) => {
    let made = 0;
    for (const pair of pairs) {
      let filled = 0;
      work(pair, (left, right) => {
        out.f32.set(left, pair.left * room + filled);
        out.f32.set(right, pair.right * room + filled);
        filled += left.length;
      });
      made = filled;
    }
    const n = Math.min(made, length - written);
    writer.write(out.ptr, room * 4, n);
    written += n;
  };
  let whole = false;
  try {
    eachBlock(source, (planar, stride, n, at) => {
      const channel = (c: number) => planar.f32.slice((c * stride) / 4, (c * stride) / 4 + n);
      round(({ resampler, left, right }, take) => resampler.push(channel(left), channel(right), take));
      tick((at + n) / frames);
    });
    round(({ resampler }, take) => resampler.end(take));
    writer.finish();
    whole = true;
  } finally {
    for (const { resampler } of pairs) resampler.release();
    out.release();
    source.close();
    if (!whole) writer.abandon();
  }
  return written;
}

// A file becomes a recording: every sample is checked, its content hashed, and its caches made. All in a folder of the job's own:
// what comes of it is put in place where the job ends.
import { resampledLength } from "$lib/core/audio/resampler";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { Meter } from "$lib/core/measure/meter";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { makeCaches } from "./caches";
import { eachBlock } from "./eachBlock";
import { hashFile } from "./hash";
import { MediaStore, syncFile, type FileState } from "./store";
import { WavFile } from "./wavFile";

/** Reads every sample once. Returns its integrated loudness, LUFS. @throws FileFault naming a sample that is no number */
function checkSamples(file: WavFile, tick: (share: number) => void): number {
  const { channels, sampleRate, frames } = file.layout;
  const meter = new Meter(sampleRate, { weights: channelWeights(channels), peaks: false });
  try {
    eachBlock(file, (planar, stride, n, at) => {
      meter.pushChannels(
        Array.from({ length: channels }, (_, c) => planar.ptr + c * stride),
        n
      );
      tick((at + n) / frames);
    });
    return meter.loudness().integratedLufs;
  } finally {
    meter.release();
  }
}

export interface Ingested {
  readonly hash: string;
  readonly layout: WavLayout;
  /** Frames at the project's rate. */
  readonly frames: number;
  /** What the store had under this hash before. */
  readonly before: FileState;
  /** Integrated loudness in LUFS; null: silence, or too short. */
  readonly loudness: number | null;
}

/**
 * Checks and hashes a file, and makes its caches in `scratch`. The file stays where it is, synced.
 * @throws FileFault with the reason when it cannot be used
 */
export function ingest(
  file: string,
  data: string,
  sampleRate: number,
  scratch: string,
  tick: (share: number) => void
): Ingested {
  const wav = new WavFile(file);
  const { layout } = wav;
  let loudness: number;
  try {
    loudness = checkSamples(wav, (s) => tick(s * 0.3));
  } finally {
    wav.close();
  }
  const size = layout.dataOffset + layout.frames * layout.bytesPerFrame;
  const hash = hashFile(file, (s) => tick(0.3 + s * 0.2), size);
  syncFile(file);
  // What is there already may have been damaged since: then this file repairs it.
  const before = new MediaStore(data).verify(hash, (s) => tick(0.5 + s * 0.1));
  makeCaches({ file, hash, layout }, sampleRate, scratch, data, (s) => tick(0.6 + s * 0.4));
  const frames = resampledLength(layout.frames, layout.sampleRate, sampleRate);
  return { hash, layout, frames, before, loudness: Number.isFinite(loudness) ? loudness : null };
}

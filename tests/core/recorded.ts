// The recorded sounds of tests/fixtures, at the rate that a test wants.
import { readFileSync } from "node:fs";
import path from "node:path";
import { resampled } from "../../src/lib/core/audio/resampler";
import { readWavLayout } from "../../src/lib/core/formats/wavReader";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { decodeSamples } from "../../src/lib/core/formats/samples";

export interface Recorded {
  readonly sampleRate: number;
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/** A recorded sound; a mono one is on both sides. */
export function recorded(name: string, rate?: number): Recorded {
  const bytes = readFileSync(path.join(import.meta.dirname, "../fixtures", `${name}.wav`));
  const layout = readWavLayout((at, n) => bytes.subarray(at, at + n), bytes.length);
  const raw = new KernelBuffer(bytes.length);
  raw.u8.set(bytes.subarray(layout.dataOffset));
  const stride = layout.frames * 4;
  const planar = new KernelBuffer(stride * layout.channels);
  decodeSamples(layout.kind, raw.ptr, layout.frames, layout.channels, planar.ptr, stride);
  const channel = (c: number) =>
    resampled(
      [planar.f32.slice(c * layout.frames, (c + 1) * layout.frames)],
      layout.sampleRate,
      rate ?? layout.sampleRate
    )[0];
  const left = channel(0);
  const right = layout.channels > 1 ? channel(1) : left;
  raw.release();
  planar.release();
  return { sampleRate: rate ?? layout.sampleRate, left, right };
}

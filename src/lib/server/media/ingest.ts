// A file becomes a recording: check every sample, hash, conform to the project's rate, draw the overview.
import { createHash } from "node:crypto";
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readSync, renameSync, rmSync } from "node:fs";
import path from "node:path";
import { Resampler, resampledLength, type Made } from "$lib/core/audio/resampler";
import { FileFault } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import { OverviewBuilder } from "./overviewFile";
import { conformedPath, originalPath, overviewPath } from "./paths";
import { WavFile, WavWriter } from "./wavFile";

const BLOCK_FRAMES = 1 << 16;
const HASH_BYTES = 4 << 20;

/** SHA-256 of a file's content, hexadecimal. */
export function hashFile(file: string, tick: (share: number) => void, size: number): string {
  const hash = createHash("sha256");
  const bytes = Buffer.allocUnsafe(HASH_BYTES);
  const fd = openSync(file, "r");
  try {
    for (let at = 0; ;) {
      const n = readSync(fd, bytes, 0, HASH_BYTES, at);
      if (n === 0) break;
      hash.update(bytes.subarray(0, n));
      at += n;
      tick(at / size);
    }
  } finally {
    closeSync(fd);
  }
  return hash.digest("hex");
}

/** Visits a whole file in planar blocks of at most 65536 frames. */
function eachBlock(
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

/** Refuses NaN and infinity, which no effect could treat. @throws FileFault naming the place */
function checkSamples(file: WavFile, tick: (share: number) => void, overview: OverviewBuilder): void {
  const { kind, channels, frames, sampleRate } = file.layout;
  eachBlock(file, (planar, stride, n, at) => {
    if (kind.startsWith("float"))
      for (let c = 0; c < channels; c++) {
        const bad = kernels.firstNotFinite(planar.ptr + c * stride, n);
        if (bad >= 0)
          throw new FileFault(
            `sample ${at + bad} (at ${((at + bad) / sampleRate).toFixed(3)} s) is not a number or infinite`
          );
      }
    overview.push(planar.ptr, stride, channels, n);
    tick((at + n) / frames);
  });
}

/** Writes the recording at another rate, as 32-bit float, and its overview. */
export function conform(
  data: string,
  hash: string,
  sampleRate: number,
  scratch: string,
  tick: (share: number) => void
): number {
  const source = new WavFile(originalPath(data, hash));
  const { channels, frames, sampleRate: from } = source.layout;
  const length = resampledLength(frames, from, sampleRate);
  const part = path.join(scratch, `${hash}.${sampleRate}.wav`);
  const writer = new WavWriter(part, "float32", channels, sampleRate, false);
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
  eachBlock(source, (planar, stride, n, at) => {
    const channel = (c: number) => planar.f32.slice((c * stride) / 4, (c * stride) / 4 + n);
    round(({ resampler, left, right }, take) => resampler.push(channel(left), channel(right), take));
    tick((at + n) / frames);
  });
  round(({ resampler }, take) => resampler.end(take));
  for (const { resampler } of pairs) resampler.release();
  out.release();
  source.close();
  writer.finish();
  renameSync(part, conformedPath(data, hash, sampleRate));
  return written;
}

/** Draws a recording's overview at a rate from the file at that rate. */
export function drawOverview(data: string, hash: string, sampleRate: number, file: string): void {
  const wav = new WavFile(file);
  const overview = new OverviewBuilder(wav.layout.frames);
  eachBlock(wav, (planar, stride, n) => overview.push(planar.ptr, stride, wav.layout.channels, n));
  wav.close();
  overview.finish(overviewPath(data, hash, sampleRate));
}

export interface Ingested {
  readonly hash: string;
  readonly layout: WavLayout;
  /** Frames at the project's rate. */
  readonly frames: number;
}

/**
 * Takes a file into the media store under the hash of its content. The file itself is moved there; when the store has the
 * content already, it is removed instead.
 * @throws FileFault with the reason when it cannot be used; nothing is left behind then
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
  const overview = new OverviewBuilder(layout.frames);
  try {
    checkSamples(wav, (s) => tick(s * 0.4), overview);
  } finally {
    wav.close();
  }
  const size = layout.dataOffset + layout.frames * layout.bytesPerFrame;
  const hash = hashFile(file, (s) => tick(0.4 + Math.min(1, s) * 0.2), size);
  const target = originalPath(data, hash);
  mkdirSync(path.dirname(target), { recursive: true });
  if (existsSync(target)) rmSync(file);
  else {
    const fd = openSync(file, "r+");
    fsyncSync(fd);
    closeSync(fd);
    renameSync(file, target);
  }
  overview.finish(overviewPath(data, hash, layout.sampleRate));
  const frames = ensureRate(data, hash, sampleRate, scratch, (s) => tick(0.6 + s * 0.4));
  return { hash, layout, frames };
}

/** Makes sure that a recording and its overview are there at a rate. Returns its frames. */
export function ensureRate(
  data: string,
  hash: string,
  sampleRate: number,
  scratch: string,
  tick: (share: number) => void
): number {
  const original = new WavFile(originalPath(data, hash));
  const { layout } = original;
  original.close();
  if (layout.sampleRate === sampleRate) {
    if (!existsSync(overviewPath(data, hash, sampleRate)))
      drawOverview(data, hash, sampleRate, originalPath(data, hash));
    return layout.frames;
  }
  const file = conformedPath(data, hash, sampleRate);
  if (!existsSync(file)) conform(data, hash, sampleRate, scratch, tick);
  if (!existsSync(overviewPath(data, hash, sampleRate))) drawOverview(data, hash, sampleRate, file);
  return resampledLength(layout.frames, layout.sampleRate, sampleRate);
}

import { StereoBlock } from "$lib/core/audio/block";
import { foldDown } from "$lib/core/audio/foldDown";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import { CHUNK_FRAMES, ChunkCache } from "$lib/core/render/chunkCache";
import type { Spool, Learnt, Samples } from "$lib/core/effects/description";
import type { LearntStore } from "$lib/core/render/lessons";
import { resampled } from "$lib/core/audio/resampler";
import { FileSpool } from "./fileSpool";
import { WavFile } from "./wavFile";

/** Files of recordings at the project's rate, by id. */
export type RecordingFiles = Readonly<Record<string, string>>;

/** Reads chunks of one file folded to stereo. */
export class ChunkReader {
  readonly file: WavFile;
  readonly #planar: KernelBuffer;

  constructor(path: string) {
    this.file = new WavFile(path);
    this.#planar = new KernelBuffer(CHUNK_FRAMES * this.file.layout.channels * 4);
  }

  /** Chunk number `chunk` to two f32 blocks; zeros beyond the end. */
  read(chunk: number, left: number, right: number): void {
    const stride = CHUNK_FRAMES * 4;
    const { channels } = this.file.layout;
    kernels.clear(left, CHUNK_FRAMES);
    kernels.clear(right, CHUNK_FRAMES);
    const n = this.file.read(chunk * CHUNK_FRAMES, CHUNK_FRAMES, this.#planar.ptr, stride);
    foldDown(channels).forEach(([toLeft, toRight], c) => {
      const from = this.#planar.ptr + c * stride;
      if (toLeft !== 0) kernels.addScaled(left, from, n, toLeft);
      if (toRight !== 0) kernels.addScaled(right, from, n, toRight);
    });
  }

  close(): void {
    this.file.close();
    this.#planar.release();
  }
}

const CACHED_CHUNKS = 64;

/** Longest recording that is read as a whole, seconds. */
const MAX_SOUND_SECONDS = 20;

/** A short recording as a whole, at a rate, folded to stereo. */
function wholeSound(path: string, sampleRate: number): Samples {
  const reader = new ChunkReader(path);
  const { layout } = reader.file;
  const frames = Math.min(layout.frames, MAX_SOUND_SECONDS * layout.sampleRate);
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  const block = new StereoBlock(CHUNK_FRAMES);
  for (let chunk = 0; chunk * CHUNK_FRAMES < frames; chunk++) {
    reader.read(chunk, block.left.ptr, block.right.ptr);
    const at = chunk * CHUNK_FRAMES;
    left.set(block.left.f32.subarray(0, Math.min(CHUNK_FRAMES, frames - at)), at);
    right.set(block.right.f32.subarray(0, Math.min(CHUNK_FRAMES, frames - at)), at);
  }
  block.release();
  reader.close();
  // As pages have it: without silence at the end.
  let end = frames;
  while (end > 1 && left[end - 1] === 0 && right[end - 1] === 0) end--;
  const pair = [left.slice(0, end), right.slice(0, end)];
  const [l = left, r = right] = resampled(pair, layout.sampleRate, sampleRate);
  return { left: l, right: r };
}

/** A source that reads files as they are needed. Close it when done. */
export class FileSource extends ChunkCache {
  readonly learnt: LearntStore = new Map<string, readonly (Learnt | undefined)[]>();
  readonly #readers: Map<string, ChunkReader>;
  readonly #sounds = new Map<string, Samples>();
  readonly #spools: FileSpool[] = [];

  /**
   * @param sampleRate at which effects work: recordings that they ask for are brought to it
   * @param channels of what is made of it
   */
  constructor(
    private readonly files: RecordingFiles,
    private readonly sampleRate: number,
    readonly channels: 1 | 2 = 2
  ) {
    const readers = new Map<string, ChunkReader>();
    super(CACHED_CHUNKS, (id, chunk, left, right) => {
      let reader = readers.get(id);
      if (!reader) {
        const path = files[id];
        if (!path) throw new Error(`Recording ${id} is not in the media store.`);
        reader = new ChunkReader(path);
        readers.set(id, reader);
      }
      reader.read(chunk, left, right);
    });
    this.#readers = readers;
  }

  sound(id: string): Samples | undefined {
    const path = this.files[id];
    let sound = this.#sounds.get(id);
    if (!sound && path) this.#sounds.set(id, (sound = wholeSound(path, this.sampleRate)));
    return sound;
  }

  spool(): Spool {
    const spool = new FileSpool();
    this.#spools.push(spool);
    return spool;
  }

  close(): void {
    for (const reader of this.#readers.values()) reader.close();
    this.#readers.clear();
    for (const spool of this.#spools) spool.release();
    this.release();
  }
}

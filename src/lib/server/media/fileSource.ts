import { foldDown } from "$lib/core/audio/foldDown";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import { CHUNK_FRAMES, ChunkCache } from "$lib/core/render/chunkCache";
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

/** A source that reads files as they are needed. Close it when done. */
export class FileSource extends ChunkCache {
  readonly #readers: Map<string, ChunkReader>;

  constructor(files: RecordingFiles) {
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

  close(): void {
    for (const reader of this.#readers.values()) reader.close();
    this.#readers.clear();
    this.release();
  }
}

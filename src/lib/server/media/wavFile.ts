import { closeSync, fsyncSync, openSync, readSync, fstatSync, writeSync } from "node:fs";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { FileFault } from "$lib/core/formats/fault";
import {
  decodeSamples,
  DITHER_SEED,
  encodeSamples,
  SHAPING_BYTES,
  shapes,
  type Dither
} from "$lib/core/formats/samples";
import { readWavLayout, type WavLayout } from "$lib/core/formats/wavReader";
import { chunksOf, letters, type Chunk, type ReadBytes } from "$lib/core/formats/wavChunks";
import { bytesPerSample, wavHeader, wavHeaderBytes, type OutputFormat } from "$lib/core/formats/wavWriter";
import { readerOf } from "./readBytes";

/** Why a file with such a sample can't be used: no effect could treat it. */
export function notFinite(frame: number, sampleRate: number): FileFault {
  const seconds = (frame / sampleRate).toFixed(3);
  return new FileFault(`sample ${frame} (at ${seconds} s) is not a number or infinite`);
}

/** A WAV file opened for reading. Synchronous: for worker threads and short reads. */
export class WavFile {
  readonly layout: WavLayout;
  readonly #fd: number;
  readonly #read: ReadBytes;
  #raw: KernelBuffer | undefined;

  /** @throws FileFault when it is no WAV file that can be read */
  constructor(file: string) {
    this.#fd = openSync(file, "r");
    this.#read = readerOf(this.#fd);
    try {
      this.layout = readWavLayout(this.#read, fstatSync(this.#fd).size);
    } catch (error) {
      closeSync(this.#fd);
      throw error;
    }
  }

  /**
   * Decodes up to `frames` frames from `from` on into planar f32: channel c at `dst + c × stride` bytes.
   * @returns frames decoded; fewer at the end
   * @throws FileFault naming the first sample that is not a number or infinite: no effect could treat it
   */
  read(from: number, frames: number, dst: number, stride: number): number {
    const { bytesPerFrame, dataOffset, kind, channels } = this.layout;
    const n = Math.max(0, Math.min(frames, this.layout.frames - from));
    if (n === 0) return 0;
    const bytes = n * bytesPerFrame;
    if (!this.#raw || this.#raw.bytes < bytes) {
      this.#raw?.release();
      this.#raw = new KernelBuffer(bytes);
    }
    let done = 0;
    while (done < bytes) {
      const got = readSync(
        this.#fd,
        this.#raw.u8,
        done,
        bytes - done,
        dataOffset + from * bytesPerFrame + done
      );
      if (got === 0) throw new Error("The file became shorter while it was read.");
      done += got;
    }
    decodeSamples(kind, this.#raw.ptr, n, channels, dst, stride);
    if (kind.startsWith("float")) this.#check(from, n, dst, stride);
    return n;
  }

  #check(from: number, frames: number, dst: number, stride: number): void {
    for (let c = 0; c < this.layout.channels; c++) {
      const bad = kernels.firstNotFinite(dst + c * stride, frames);
      if (bad >= 0) throw notFinite(from + bad, this.layout.sampleRate);
    }
  }

  /** The chunks of the file whose content is asked for by name, as far as they are short enough to be read. */
  chunks(names: readonly string[]): Chunk[] {
    const found: Chunk[] = [];
    // The chunks of Wave64 have other names, and none of these.
    if (letters(this.#read(0, 4), 0) === "riff") return found;
    for (const { id, at, length = Infinity } of chunksOf(this.#read, fstatSync(this.#fd).size))
      if (names.includes(id) && length <= MOST_CHUNK_BYTES) found.push({ id, body: this.#read(at, length) });
    return found;
  }

  close(): void {
    closeSync(this.#fd);
    this.#raw?.release();
  }
}

/** Texts and markers are far shorter. */
const MOST_CHUNK_BYTES = 16 << 20;

/** Writes another content into a chunk of a file, which must be as long as the one that is there. */
export function replaceChunk(file: string, { id, body }: Chunk): void {
  const fd = openSync(file, "r+");
  try {
    for (const place of chunksOf(readerOf(fd), fstatSync(fd).size)) {
      if (place.id !== id) continue;
      if (place.length !== body.length) throw new Error(`The chunk "${id}" has another length.`);
      writeSync(fd, body, 0, body.length, place.at);
      fsyncSync(fd);
      return;
    }
    throw new Error(`There is no chunk "${id}".`);
  } finally {
    closeSync(fd);
  }
}

const WRITE_FRAMES = 8192;

/** A WAV file being written: header last, then synced to disk by `finish`. */
export class WavWriter {
  readonly #fd: number;
  readonly #bytes: KernelBuffer;
  readonly #errors: KernelBuffer | undefined;
  readonly #begin: number;
  #frames = 0;
  #at: number;
  #seed: number;
  #open = true;

  /** @param chunks what stands before the samples, beside the format */
  constructor(
    file: string,
    private readonly format: OutputFormat,
    private readonly channels: number,
    private readonly sampleRate: number,
    dither: Dither,
    private readonly chunks: readonly Chunk[] = []
  ) {
    this.#fd = openSync(file, "wx");
    this.#seed = dither === "none" ? 0 : DITHER_SEED;
    this.#bytes = new KernelBuffer(WRITE_FRAMES * channels * bytesPerSample(format));
    if (shapes(dither, format, sampleRate)) this.#errors = new KernelBuffer(channels * SHAPING_BYTES);
    this.#begin = wavHeaderBytes(chunks);
    this.#at = this.#begin;
  }

  /** Appends frames; channel c at `src + c × stride` bytes. */
  write(src: number, stride: number, frames: number): void {
    for (let done = 0; done < frames;) {
      const n = Math.min(WRITE_FRAMES, frames - done);
      this.#seed = encodeSamples(
        this.format,
        src + done * 4,
        stride,
        n,
        this.channels,
        this.#bytes.ptr,
        this.#seed,
        this.#errors?.ptr
      );
      const bytes = n * this.channels * bytesPerSample(this.format);
      this.#put(this.#bytes.u8, bytes, this.#at);
      this.#at += bytes;
      this.#frames += n;
      done += n;
    }
  }

  #put(bytes: Uint8Array, length: number, position: number): void {
    let done = 0;
    while (done < length) done += writeSync(this.#fd, bytes, done, length - done, position + done);
  }

  /** Frames written so far. */
  get frames(): number {
    return this.#frames;
  }

  /**
   * Writes the header, syncs and closes.
   * @param chunks in place of those that were given before, and as long: what is known only when all is written
   */
  finish(chunks = this.chunks): void {
    if (wavHeaderBytes(chunks) !== this.#begin) throw new Error("The chunks have another length now.");
    if ((this.#at - this.#begin) % 2 === 1) this.#put(new Uint8Array(1), 1, this.#at);
    const header = wavHeader(this.format, this.channels, this.sampleRate, this.#frames, chunks);
    this.#put(header, header.length, 0);
    fsyncSync(this.#fd);
    this.abandon();
  }

  /** Closes as it is; the caller removes a file that was not finished. Closing twice does nothing. */
  abandon(): void {
    if (!this.#open) return;
    this.#open = false;
    closeSync(this.#fd);
    this.#bytes.release();
    this.#errors?.release();
  }
}

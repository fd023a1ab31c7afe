// Samples of a file that is still being written, read as soon as they are there: examined and hashed while the rest is decoded.
import { closeSync, openSync, readSync } from "node:fs";
import { decodeSamples } from "$lib/core/formats/samples";
import { bytesPerSample, type OutputFormat } from "$lib/core/formats/wavWriter";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK_FRAMES } from "../eachBlock";
import type { Findings } from "../findings";
import { contentHash } from "../hash";

/** Frames that are examined at once: few enough to stay in a core's cache. Divides a block. */
const PART_FRAMES = 1 << 13;

export class Behind {
  readonly #fd: number;
  readonly #raw: KernelBuffer;
  readonly #planar: KernelBuffer;
  readonly #bytesPerFrame: number;
  readonly #hash = contentHash();
  #frames = 0;

  /**
   * @param header what stands before the samples, as it will be in the end if all goes as the file promises
   * @param most frames after which the rest is not looked at
   * @param findings what is found of the samples, if anything is wanted
   */
  constructor(
    file: string,
    private readonly header: Uint8Array,
    private readonly format: OutputFormat,
    private readonly channels: number,
    private readonly most: number,
    private readonly findings: Findings | undefined
  ) {
    this.#fd = openSync(file, "r");
    this.#bytesPerFrame = channels * bytesPerSample(format);
    this.#raw = new KernelBuffer(BLOCK_FRAMES * this.#bytesPerFrame);
    this.#planar = new KernelBuffer(findings ? PART_FRAMES * channels * 4 : 4);
    this.#hash.update(header);
  }

  /** Frames taken so far. */
  get frames(): number {
    return this.#frames;
  }

  #there(size: number): number {
    const whole = Math.floor((size - this.header.length) / this.#bytesPerFrame);
    return Math.min(whole, this.most) - this.#frames;
  }

  /** Takes one block of what a file of so many bytes holds, unless there is none yet. Returns whether there was. @throws FileFault as findings do */
  block(size: number): boolean {
    if (this.#there(size) < BLOCK_FRAMES) return false;
    this.#take(BLOCK_FRAMES);
    return true;
  }

  /** Takes the rest of a file that has come to its end, of so many bytes. @throws FileFault as findings do */
  rest(size: number): void {
    while (this.block(size));
    const left = this.#there(size);
    if (left > 0) this.#take(left);
  }

  #take(frames: number): void {
    const bytes = this.#raw.u8.subarray(0, frames * this.#bytesPerFrame);
    const from = this.header.length + this.#frames * this.#bytesPerFrame;
    for (let done = 0; done < bytes.length;) {
      const got = readSync(this.#fd, bytes, done, bytes.length - done, from + done);
      if (got === 0) throw new Error("The file became shorter while it was read.");
      done += got;
    }
    this.#hash.update(bytes);
    if (this.findings) this.#examine(this.findings, frames);
    this.#frames += frames;
  }

  #examine(findings: Findings, frames: number): void {
    const stride = PART_FRAMES * 4;
    for (let at = 0; at < frames; at += PART_FRAMES) {
      const n = Math.min(PART_FRAMES, frames - at);
      const from = this.#raw.ptr + at * this.#bytesPerFrame;
      decodeSamples(this.format, from, n, this.channels, this.#planar.ptr, stride);
      findings.push(this.#planar.ptr, stride, n);
    }
  }

  /** Hash of the header and all that was taken, and of what follows it, hexadecimal. Once. */
  digest(after: Uint8Array): string {
    return this.#hash.update(after).digest("hex");
  }

  close(): void {
    closeSync(this.#fd);
    this.#raw.release();
    this.#planar.release();
  }
}

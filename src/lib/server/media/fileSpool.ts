import { closeSync, openSync, readSync, rmSync, writeSync } from "node:fs";
import { randomUUID } from "node:crypto";
import { tmpdir } from "node:os";
import path from "node:path";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import type { Spool } from "$lib/core/effects/description";

const FRAMES = 1 << 15;

/*
 * Sound kept in a file, in blocks of 32768 frames, left then right. Unless it is given a name it has none: the system takes it back
 * when it is closed, however the process ends.
 */
export class FileSpool implements Spool {
  readonly #fd: number;
  readonly #block = new KernelBuffer(FRAMES * 8);
  /** The block in memory that was read last; -1: none. */
  readonly #seen = new KernelBuffer(FRAMES * 8);
  #seenBlock = -1;
  #frames = 0;
  #open = true;
  readonly #finished: boolean;

  /**
   * @param named a file to keep it in; a new one unless `frames` are given
   * @param frames that a finished file holds
   */
  constructor(named?: string, frames?: number) {
    const file = named ?? path.join(tmpdir(), `wring-keep-${randomUUID()}`);
    this.#fd = openSync(file, frames === undefined ? "wx+" : "r");
    if (named === undefined) rmSync(file);
    this.#finished = frames !== undefined;
    this.#frames = frames ?? 0;
  }

  /** Writes what is still in memory: a named file is whole then. */
  finish(): void {
    if (this.#frames % FRAMES !== 0) this.#write(Math.floor(this.#frames / FRAMES));
  }

  append(l: number, r: number, n: number): void {
    for (let done = 0; done < n;) {
      const inside = this.#frames % FRAMES;
      const m = Math.min(n - done, FRAMES - inside);
      kernels.copy(this.#block.ptr + inside * 4, l + done * 4, m);
      kernels.copy(this.#block.ptr + (FRAMES + inside) * 4, r + done * 4, m);
      this.#frames += m;
      done += m;
      if (this.#frames % FRAMES === 0) this.#write(this.#frames / FRAMES - 1);
    }
  }

  #write(block: number): void {
    const bytes = this.#block.u8;
    for (let done = 0; done < bytes.length;)
      done += writeSync(this.#fd, bytes, done, bytes.length - done, block * bytes.length + done);
  }

  /** Address of a block's left channel; its right one lies FRAMES behind. */
  #at(block: number): number {
    if (!this.#finished && block === Math.floor(this.#frames / FRAMES)) return this.#block.ptr;
    if (block !== this.#seenBlock) {
      const bytes = this.#seen.u8;
      for (let done = 0; done < bytes.length;) {
        const got = readSync(this.#fd, bytes, done, bytes.length - done, block * bytes.length + done);
        if (got === 0) throw new Error("Sound that was kept on disk is gone.");
        done += got;
      }
      this.#seenBlock = block;
    }
    return this.#seen.ptr;
  }

  read(from: number, n: number, l: number, r: number): void {
    kernels.clear(l, n);
    kernels.clear(r, n);
    const end = Math.min(from + n, this.#frames);
    for (let at = Math.max(0, from); at < end;) {
      const inside = at % FRAMES;
      const m = Math.min(end - at, FRAMES - inside);
      const base = this.#at(Math.floor(at / FRAMES));
      kernels.copy(l + (at - from) * 4, base + inside * 4, m);
      kernels.copy(r + (at - from) * 4, base + (FRAMES + inside) * 4, m);
      at += m;
    }
  }

  release(): void {
    if (!this.#open) return;
    this.#open = false;
    closeSync(this.#fd);
    this.#block.release();
    this.#seen.release();
  }
}

// A recording that is made here: its file, its overview and its hash, in one pass over its samples.
import { renameSync, statSync } from "node:fs";
import path from "node:path";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK_FRAMES } from "./eachBlock";
import { hashFile } from "./hash";
import { Findings } from "./findings";
import { overviewName } from "./paths";
import { WavWriter } from "./wavFile";
import { partName } from "./store";

const STRIDE = BLOCK_FRAMES * 4;

/** Two channels as 32-bit float at the project's rate. Everything lies in the folder of its file. */
export class MadeRecording {
  readonly #file: string;
  readonly #writer: WavWriter;
  readonly #drawing: string;
  readonly #findings: Findings;
  readonly #planar = new KernelBuffer(STRIDE * 2);
  #filled = 0;
  #open = true;

  /** @param file a new file */
  constructor(
    file: string,
    private readonly sampleRate: number
  ) {
    this.#file = file;
    this.#drawing = partName(file);
    this.#writer = new WavWriter(file, "float32", 2, sampleRate, "none");
    this.#findings = new Findings(2, sampleRate, { overview: this.#drawing, loudness: false });
  }

  /**
   * Appends frames. l, r: addresses of f32 blocks in the kernels' memory.
   * @throws FileFault naming the first sample that is not a number or infinite
   */
  write(l: number, r: number, frames: number): void {
    for (let done = 0; done < frames;) {
      const n = Math.min(frames - done, BLOCK_FRAMES - this.#filled);
      const to = this.#planar.ptr + this.#filled * 4;
      kernels.copy(to, l + done * 4, n);
      kernels.copy(to + STRIDE, r + done * 4, n);
      this.#filled += n;
      done += n;
      if (this.#filled === BLOCK_FRAMES) this.#flush();
    }
  }

  #flush(): void {
    const n = this.#filled;
    if (n === 0) return;
    const { ptr } = this.#planar;
    this.#findings.push(ptr, STRIDE, n);
    this.#writer.write(ptr, STRIDE, n);
    this.#filled = 0;
  }

  /** Ends file and overview, both synced; the overview is named as the store names it. Returns the hash of the file. */
  finish(tick: (share: number) => void): string {
    this.#flush();
    this.#writer.finish();
    this.#findings.finish();
    const hash = hashFile(this.#file, tick, statSync(this.#file).size);
    renameSync(this.#drawing, path.join(path.dirname(this.#file), overviewName(hash, this.sampleRate)));
    this.abandon();
    return hash;
  }

  /** Closes what is open; the caller removes what was not finished. Closing twice does nothing. */
  abandon(): void {
    if (!this.#open) return;
    this.#open = false;
    this.#writer.abandon();
    this.#findings.close();
    this.#planar.release();
  }
}

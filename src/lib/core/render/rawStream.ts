import { kernels } from "../kernels/instance";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import type { Source } from "./source";

/** A recording as it is, from a frame on, up to one at which there is silence. */
export class RawStream implements SoundStream {
  #at: number;

  constructor(
    private readonly source: Source,
    private readonly recordingId: string,
    from: number,
    private readonly end: number
  ) {
    this.#at = from;
  }

  read(l: number, r: number, n: number): void {
    const inside = Math.max(0, Math.min(n, this.end - this.#at));
    if (inside > 0) this.source.read(this.recordingId, this.#at, inside, l, r);
    kernels.clear(l + inside * 4, n - inside);
    kernels.clear(r + inside * 4, n - inside);
    this.#at += n;
  }

  needed(n: number): FrameRange[] {
    const to = Math.max(this.#at, Math.min(this.end, this.#at + n));
    return [{ recordingId: this.recordingId, from: Math.min(this.#at, to), to }];
  }

  release(): void {
    // It holds nothing.
  }
}

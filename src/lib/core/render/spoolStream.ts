import type { FrameRange, SoundStream } from "../audio/soundStream";
import type { Spool } from "../effects/description";

/** Sound that was kept, from its beginning; silence behind its end. */
export class SpoolStream implements SoundStream {
  #at = 0;

  constructor(private readonly spool: Spool) {}

  read(l: number, r: number, n: number): void {
    this.spool.read(this.#at, n, l, r);
    this.#at += n;
  }

  needed(): readonly FrameRange[] {
    return [];
  }

  release(): void {
    // The spool is its owner's.
  }
}

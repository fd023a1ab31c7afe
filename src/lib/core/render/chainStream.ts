import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { Chain, type ChainPlace, type ChainTiming, type StepSpec } from "../effects/chain";
import { kernels } from "../kernels/instance";

// A start in the middle runs the chain in over the time in which its past dies away, but no longer than this.
const MAX_RUN_IN_SECONDS = 3;

/** Most frames of a run-in. */
export function mostRunIn(sampleRate: number): number {
  return Math.round(MAX_RUN_IN_SECONDS * sampleRate);
}

/** Frames over which a chain that starts in the middle is run in. */
export function runIn(timing: ChainTiming, sampleRate: number): number {
  return Math.min(timing.settle, mostRunIn(sampleRate));
}

/** A chain at work on a stream, from a position on, its latency taken out. Works in blocks from where its input begins. */
export class ChainStream implements SoundStream {
  readonly #block: StereoBlock;
  readonly #chain: Chain;
  #have = 0;
  #at = 0;
  #discard: number;

  /**
   * @param input from `place.position` on; released with this
   * @param position frame of the owner that is read first; not before `place.position`
   * @param size frames that it works on at a time, at most BLOCK: with less it reads less ahead
   */
  constructor(
    private readonly input: SoundStream,
    steps: readonly StepSpec[],
    sampleRate: number,
    position: number,
    place: ChainPlace,
    private readonly size = BLOCK
  ) {
    this.#block = new StereoBlock(size);
    this.#chain = new Chain(steps, sampleRate, place);
    this.#discard = position - place.position + this.#chain.timing.latency;
  }

  #fill(): void {
    const { left, right } = this.#block;
    this.input.read(left.ptr, right.ptr, this.size);
    this.#chain.process(left.ptr, right.ptr, this.size);
    const skip = Math.min(this.#discard, this.size);
    this.#discard -= skip;
    this.#at = skip;
    this.#have = this.size;
  }

  read(l: number, r: number, n: number): void {
    for (let done = 0; done < n;) {
      while (this.#at === this.#have) this.#fill();
      const m = Math.min(n - done, this.#have - this.#at);
      kernels.copy(l + done * 4, this.#block.left.ptr + this.#at * 4, m);
      kernels.copy(r + done * 4, this.#block.right.ptr + this.#at * 4, m);
      this.#at += m;
      done += m;
    }
  }

  warm(n: number): boolean {
    if (this.#discard > 0 && !(this.input.warm?.(n) ?? true)) return false;
    for (let done = 0; this.#discard > 0 && done < n; done += this.size) this.#fill();
    return this.#discard === 0;
  }

  needed(n: number): readonly FrameRange[] {
    return this.input.needed(n + this.#discard + BLOCK);
  }

  release(): void {
    this.#block.release();
    this.#chain.release();
    this.input.release();
  }
}

// What a chain does to its sound, alone: what comes out less what went in. No effect to be chosen: the last step of a chain that is listened to so.
import { BLOCK, StereoBlock } from "../audio/block";
import { DelayLine } from "../audio/delayLine";
import { kernels } from "../kernels/instance";
import type { EffectDescription } from "./description";

/** Id of the step that stands at the end of such a chain. */
export const DIFFERENCE = "listen-difference";

/** Does nothing itself: the chain that ends with it takes its input off its output (`Chain`). */
export const difference: EffectDescription = {
  id: DIFFERENCE,
  name: "Difference",
  group: "unknown",
  help: "What the steps before it change, alone.",
  keywords: [],
  params: [],
  presets: [],
  summary: () => "after minus before",
  latency: () => 0,
  settle: () => 0,
  create: () => ({ process: () => undefined, release: () => undefined })
};

/** Keeps a chain's input until its output comes, and takes it off. */
export class InputTaker {
  readonly #line: DelayLine;
  readonly #input = new StereoBlock(BLOCK);

  /** @param latency of the chain, in frames */
  constructor(latency: number) {
    this.#line = new DelayLine(latency);
  }

  /** Before the chain: n ≤ BLOCK frames. */
  keep(l: number, r: number, n: number): void {
    const { left, right } = this.#input;
    kernels.copy(left.ptr, l, n);
    kernels.copy(right.ptr, r, n);
    this.#line.process(left.ptr, right.ptr, n);
  }

  /** Behind the chain: the same n frames. */
  take(l: number, r: number, n: number): void {
    const { left, right } = this.#input;
    kernels.addScaled(l, left.ptr, n, -1);
    kernels.addScaled(r, right.ptr, n, -1);
  }

  release(): void {
    this.#line.release();
    this.#input.release();
  }
}

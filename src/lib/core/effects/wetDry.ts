import { StereoBlock } from "../audio/block";
import { DelayLine } from "../audio/delayLine";
import { kernels } from "../kernels/instance";
import type { Processor } from "./description";

/** Mixes a processor's output with its input, brought to the same delay. */
class WetDry implements Processor {
  readonly #dry = new StereoBlock();
  readonly #delay: DelayLine;

  constructor(
    private readonly wet: Processor,
    latency: number,
    private readonly share: number
  ) {
    this.#delay = new DelayLine(latency);
  }

  process(l: number, r: number, n: number): void {
    const dryL = this.#dry.left.ptr;
    const dryR = this.#dry.right.ptr;
    kernels.copy(dryL, l, n);
    kernels.copy(dryR, r, n);
    this.#delay.process(dryL, dryR, n);
    this.wet.process(l, r, n);
    kernels.wetDry(l, dryL, n, this.share);
    kernels.wetDry(r, dryR, n, this.share);
  }

  release(): void {
    this.wet.release();
    this.#dry.release();
    this.#delay.release();
  }
}

/** A processor with a wet/dry share in percent; at 100 % the processor itself. */
export function withMix(processor: Processor, latency: number, percent: number): Processor {
  return percent >= 100 ? processor : new WetDry(processor, latency, percent / 100);
}

import type { Params, Processor } from "./description";
import { completeParams, effectOf } from "./registry";

/** What a chain needs to know of a step. */
export interface StepSpec {
  readonly effect: string;
  readonly on: boolean;
  readonly params: Params;
}

/** Delay and memory of a chain, in frames. */
export interface ChainTiming {
  /** Delay of the output. */
  readonly latency: number;
  /** Run-in after which a start in the middle sounds as from the beginning (-120 dB). */
  readonly settle: number;
}

/** Timing of a chain: the sums over its steps that are on. */
export function chainTiming(steps: readonly StepSpec[], sampleRate: number): ChainTiming {
  let latency = 0;
  let settle = 0;
  for (const step of steps) {
    if (!step.on) continue;
    const effect = effectOf(step.effect);
    latency += effect.latency(sampleRate);
    settle += effect.settle(completeParams(effect, step.params), sampleRate);
  }
  return { latency, settle };
}

/** Running steps in order. Steps that are off are left out; their latency with them. */
export class Chain implements Processor {
  readonly timing: ChainTiming;
  readonly #processors: Processor[];

  constructor(steps: readonly StepSpec[], sampleRate: number) {
    this.timing = chainTiming(steps, sampleRate);
    this.#processors = steps
      .filter((step) => step.on)
      .map((step) => {
        const effect = effectOf(step.effect);
        return effect.create(completeParams(effect, step.params), sampleRate);
      });
  }

  process(l: number, r: number, n: number): void {
    for (const processor of this.#processors) processor.process(l, r, n);
  }

  release(): void {
    for (const processor of this.#processors) processor.release();
  }
}

import { BLOCK } from "../audio/block";
import type { Learnt, Params, Place, Processor } from "./description";
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
  /** Frames that sound on after the input has ended. */
  readonly tail: number;
  /** Longest silence inside that tail. */
  readonly gap: number;
}

/** Timing of a chain: the sums over its steps that are on. */
export function chainTiming(steps: readonly StepSpec[], sampleRate: number): ChainTiming {
  let latency = 0;
  let settle = 0;
  let tail = 0;
  let gap = 0;
  for (const step of steps) {
    if (!step.on) continue;
    const effect = effectOf(step.effect);
    const params = completeParams(effect, step.params);
    latency += effect.latency(sampleRate);
    settle += effect.settle(params, sampleRate);
    tail += effect.tail?.(params, sampleRate) ?? 0;
    gap += effect.gap?.(params, sampleRate) ?? 0;
  }
  return { latency, settle, tail, gap };
}

/** Where a chain begins in a clip, what its steps learnt (by index), and the recordings they may ask for. */
export interface ChainPlace {
  readonly frames: number;
  readonly position: number;
  readonly learnt: readonly (Learnt | undefined)[];
  sound: Place["sound"];
}

/** A stream that is no part of a clip: nothing learnt, no recordings. */
export const NO_PLACE: ChainPlace = {
  frames: 0,
  position: 0,
  learnt: [],
  sound: () => undefined
};

/** Running steps in order. Steps that are off are left out; their latency with them. */
export class Chain implements Processor {
  readonly timing: ChainTiming;
  readonly #processors: Processor[] = [];

  constructor(steps: readonly StepSpec[], sampleRate: number, place: ChainPlace = NO_PLACE) {
    this.timing = chainTiming(steps, sampleRate);
    let position = place.position;
    steps.forEach((step, i) => {
      if (!step.on) return;
      const effect = effectOf(step.effect);
      const here: Place = {
        frames: place.frames,
        position,
        learnt: place.learnt[i],
        sound: (id) => place.sound(id)
      };
      this.#processors.push(effect.create(completeParams(effect, step.params), sampleRate, here));
      // What comes out of this step lies behind by its latency.
      position -= effect.latency(sampleRate);
    });
  }

  /** Any n: the processors get BLOCK frames at most. */
  process(l: number, r: number, n: number): void {
    for (let done = 0; done < n; done += BLOCK) {
      const m = Math.min(BLOCK, n - done);
      for (const processor of this.#processors) processor.process(l + done * 4, r + done * 4, m);
    }
  }

  release(): void {
    for (const processor of this.#processors) processor.release();
  }
}

import { BLOCK } from "../audio/block";
import type { Learnt, Params, Place, Processor } from "./description";
import { DIFFERENCE, InputTaker } from "./difference";
import { completeParams, effectOf } from "./registry";
import { SPAN_EDGE_MS, Spanned, stretchOf, type Span } from "./span";

/** What a chain needs to know of a step. */
export interface StepSpec {
  readonly effect: string;
  readonly on: boolean;
  readonly params: Params;
  /** The stretch of the owner that it treats; left out or null: all of it. */
  readonly span?: Span | null | undefined;
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

/**
 * Where the sound of a chain is over when its input is over at `end`, for an owner whose spans count from its first frame: a
 * step that rings adds its tail, one with a span only as far as the span lets sound in.
 */
export function soundEnd(steps: readonly StepSpec[], sampleRate: number, end: number): number {
  let over = end;
  for (const { effect: id, on, params: given, span } of steps) {
    const effect = effectOf(id);
    const tail = on ? (effect.tail?.(completeParams(effect, given), sampleRate) ?? 0) : 0;
    if (tail > 0) over = Math.max(over, (span ? Math.min(over, span.to) : over) + tail);
  }
  return over;
}

/** Where a chain begins in the sound of its owner, what its steps learnt (by index), and the recordings they may ask for. */
export interface ChainPlace {
  /** Frames of the owner; 0: it has no end. */
  readonly frames: number;
  readonly position: number;
  /** Frame of the owner from which on the chain's input is silent; no end when left out. */
  readonly ends?: number;
  /** Position, in the measure of spans, of the owner's first frame; 0 when left out. */
  readonly origin?: number;
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

/** A step at work from a frame of its owner on. With a span, times inside the effect count from the span's beginning. */
function processorOf(
  step: StepSpec,
  { frames, ends, origin = 0, sound }: ChainPlace,
  position: number,
  learnt: Learnt | undefined,
  sampleRate: number
): Processor {
  const effect = effectOf(step.effect);
  const params = completeParams(effect, step.params);
  const create = (first: number, own: { readonly from: number; readonly to: number }): Processor => {
    const here: Place = {
      frames: own.to - own.from,
      position: first - own.from,
      origin: origin + own.from,
      ...(ends === undefined ? {} : { ends: ends - own.from }),
      learnt,
      sound
    };
    return effect.create(params, sampleRate, here);
  };
  const { span } = step;
  if (!span) return create(position, { from: 0, to: frames });
  const [from, to] = [span.from - origin, span.to - origin];
  const tail = effect.tail?.(params, sampleRate) ?? 0;
  // Outside of the owner, in the handles of a render, the whole span counts.
  const own = stretchOf(span, frames, origin) ?? { from, to };
  return new Spanned({
    from,
    to,
    edge: Math.round(((span.edgeMs ?? SPAN_EDGE_MS) / 1000) * sampleRate),
    position,
    latency: effect.latency(sampleRate),
    settle: Math.max(effect.settle(params, sampleRate), tail),
    rings: tail > 0,
    create: (first) => create(first, own)
  });
}

/** Running steps in order. Steps that are off are left out; their latency with them. With the step DIFFERENCE at its end it gives what they change alone. */
export class Chain implements Processor {
  readonly timing: ChainTiming;
  readonly #processors: Processor[] = [];
  readonly #input: InputTaker | undefined;

  constructor(steps: readonly StepSpec[], sampleRate: number, place: ChainPlace = NO_PLACE) {
    this.timing = chainTiming(steps, sampleRate);
    let position = place.position;
    if (steps.at(-1)?.effect === DIFFERENCE) this.#input = new InputTaker(this.timing.latency);
    steps.forEach((step, i) => {
      if (!step.on) return;
      this.#processors.push(processorOf(step, place, position, place.learnt[i], sampleRate));
      // What comes out of this step lies behind by its latency.
      position -= effectOf(step.effect).latency(sampleRate);
    });
  }

  /** Any n: the processors get BLOCK frames at most. */
  process(l: number, r: number, n: number): void {
    for (let done = 0; done < n; done += BLOCK) {
      const m = Math.min(BLOCK, n - done);
      const [x, y] = [l + done * 4, r + done * 4];
      this.#input?.keep(x, y, m);
      for (const processor of this.#processors) processor.process(x, y, m);
      this.#input?.take(x, y, m);
    }
  }

  release(): void {
    this.#input?.release();
    for (const processor of this.#processors) processor.release();
  }
}

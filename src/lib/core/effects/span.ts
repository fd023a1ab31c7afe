// A step that treats a stretch of its owner only.
//
//   x ──┬── P ──────────── × g ──┐              without a tail:  g·P(x) + (1−g)·x
//       └── delay of P ─── × 1−g ┴─ +
//
//   x ──┬── × g ── P ────────────┐              with a tail:     P(g·x) + (1−g)·x
//       └── delay of P ─── × 1−g ┴─ +
//
//   g   ____/‾‾‾‾‾‾‾‾\____   rises and falls inside the span; outside of it the output is the input, bit for bit, but for a tail
import { StereoBlock } from "../audio/block";
import { DelayLine } from "../audio/delayLine";
import { kernels } from "../kernels/instance";
import type { Processor } from "./description";

/** Length of the blending at a span's ends unless it says another, in milliseconds. */
export const SPAN_EDGE_MS = 5;

/** Two positions in the sound of a step's owner, [from, to), and the length of the blending. */
export interface Span {
  readonly from: number;
  readonly to: number;
  readonly edgeMs?: number | undefined;
}

/** A stretch of an owner's frames, [from, to). */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/**
 * What of an owner's sound a step treats as its own, in frames after the owner's first; undefined when it treats none of it.
 * @param frames of the owner; 0: it has no end
 * @param origin position, in the measure of spans, of the owner's first frame
 */
export function stretchOf(
  span: Span | null | undefined,
  frames: number,
  origin: number
): Stretch | undefined {
  if (!span) return { from: 0, to: frames };
  const end = frames === 0 ? Infinity : frames;
  const from = Math.max(frames === 0 ? -Infinity : 0, span.from - origin);
  const to = Math.min(end, span.to - origin);
  return to > from ? { from, to } : undefined;
}

export interface SpanOptions {
  /** The span in frames after the owner's first: may begin before it and end behind its last. */
  readonly from: number;
  readonly to: number;
  /** Frames over which it blends at each end. */
  readonly edge: number;
  /** Frame of the owner that is processed first. */
  readonly position: number;
  readonly latency: number;
  /** Frames after which the effect has forgotten its past. */
  readonly settle: number;
  /** Whether it sounds on after its input has ended. */
  readonly rings: boolean;
  /** Makes the effect; position: frame of the owner that it hears first. */
  readonly create: (position: number) => Processor;
}

/** Raised cosine from 0 to 1 over `edge` frames, each value at the middle of its frame. */
function raisedCosine(edge: number): Float64Array {
  return Float64Array.from({ length: edge }, (_, i) => 0.5 - 0.5 * kernels.cos((Math.PI * (i + 0.5)) / edge));
}

const enum Part {
  outside,
  rise,
  middle,
  fall
}

/** Runs an effect over its span. It is asleep where neither the span nor what it has to hear before it, or leaves ringing, reaches. */
export class Spanned implements Processor {
  readonly #from: number;
  readonly #to: number;
  readonly #edge: number;
  readonly #latency: number;
  readonly #rings: boolean;
  /** Frames that the effect hears. */
  readonly #wakes: number;
  readonly #sleeps: number;
  readonly #gain: Float64Array;
  readonly #dry = new StereoBlock();
  readonly #delay: DelayLine;
  readonly #effect: Processor | undefined;
  #at: number;

  constructor(options: SpanOptions) {
    const { from, to, position, latency, settle, rings } = options;
    this.#from = from;
    this.#to = to;
    this.#edge = Math.min(options.edge, Math.floor((to - from) / 2));
    this.#latency = latency;
    this.#rings = rings;
    this.#wakes = rings ? from : from - settle;
    this.#sleeps = to + latency + (rings ? settle : 0);
    this.#gain = raisedCosine(this.#edge);
    this.#delay = new DelayLine(latency);
    this.#at = position;
    if (position < this.#sleeps) this.#effect = options.create(Math.max(position, this.#wakes));
  }

  process(l: number, r: number, n: number): void {
    const at = this.#at;
    this.#at += n;
    const begin = Math.max(0, this.#wakes - at);
    const end = Math.min(n, this.#sleeps - at);
    const asleep = begin >= end || !this.#effect;
    if (asleep && this.#latency === 0) return;
    const { left, right } = this.#dry;
    kernels.copy(left.ptr, l, n);
    kernels.copy(right.ptr, r, n);
    this.#delay.process(left.ptr, right.ptr, n);
    if (asleep || !this.#effect) {
      kernels.copy(l, left.ptr, n);
      kernels.copy(r, right.ptr, n);
      return;
    }
    if (this.#rings) this.#shape(at, l, r, n);
    this.#effect.process(l + begin * 4, r + begin * 4, end - begin);
    // What it has not heard is not its own.
    this.#combine(at - this.#latency, l, r, begin, end);
    for (const [from, to] of [
      [0, begin],
      [end, n]
    ] as const) {
      if (to <= from) continue;
      kernels.copy(l + from * 4, left.ptr + from * 4, to - from);
      kernels.copy(r + from * 4, right.ptr + from * 4, to - from);
    }
  }

  /** The part of the span that a frame lies in, and the frames until the next one begins. */
  #part(q: number): { part: Part; frames: number } {
    const [from, to, edge] = [this.#from, this.#to, this.#edge];
    if (q < from) return { part: Part.outside, frames: from - q };
    if (q >= to) return { part: Part.outside, frames: Infinity };
    if (q < from + edge) return { part: Part.rise, frames: from + edge - q };
    if (q < to - edge) return { part: Part.middle, frames: to - edge - q };
    return { part: Part.fall, frames: to - q };
  }

  #gainAt(q: number, part: Part): number {
    return part === Part.rise ? this.#gain[q - this.#from] : this.#gain[this.#to - 1 - q];
  }

  /** The input of an effect that rings: by g. */
  #shape(at: number, l: number, r: number, n: number): void {
    for (let i = 0; i < n;) {
      const { part, frames } = this.#part(at + i);
      const m = Math.min(n - i, frames);
      if (part === Part.outside) {
        kernels.clear(l + i * 4, m);
        kernels.clear(r + i * 4, m);
      } else if (part !== Part.middle) {
        const [a, b] = [views(l + i * 4, m), views(r + i * 4, m)];
        for (let k = 0; k < m; k++) {
          const g = this.#gainAt(at + i + k, part);
          a[k] *= g;
          b[k] *= g;
        }
      }
      i += m;
    }
  }

  /** Puts wet and dry together from frame `begin` of the block to `end`; q: the owner's frame of the block's first output. */
  #combine(q: number, l: number, r: number, begin: number, end: number): void {
    const { left, right } = this.#dry;
    for (let i = begin; i < end;) {
      const { part, frames } = this.#part(q + i);
      const m = Math.min(end - i, frames);
      const o = i * 4;
      if (part === Part.outside) {
        if (this.#rings && q + i >= this.#to) {
          kernels.addScaled(l + o, left.ptr + o, m, 1);
          kernels.addScaled(r + o, right.ptr + o, m, 1);
        } else {
          kernels.copy(l + o, left.ptr + o, m);
          kernels.copy(r + o, right.ptr + o, m);
        }
      } else if (part !== Part.middle) {
        const [a, b] = [views(l + o, m), views(r + o, m)];
        const [x, y] = [views(left.ptr + o, m), views(right.ptr + o, m)];
        for (let k = 0; k < m; k++) {
          const g = this.#gainAt(q + i + k, part);
          const wet = this.#rings ? 1 : g;
          a[k] = wet * a[k] + (1 - g) * x[k];
          b[k] = wet * b[k] + (1 - g) * y[k];
        }
      }
      i += m;
    }
  }

  release(): void {
    this.#effect?.release();
    this.#dry.release();
    this.#delay.release();
  }
}

function views(address: number, frames: number): Float32Array {
  return new Float32Array(kernels.memory.buffer, address, frames);
}

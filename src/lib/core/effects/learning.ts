// Steps that need the whole of their input first are taught one after the other: for each, the steps before it run over what it
// treats once.
import { BLOCK, StereoBlock } from "../audio/block";
import { MemorySpool } from "../audio/spool";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { Chain, chainTiming, type StepSpec } from "./chain";
import type { Spool, Learner, Learnt, Place } from "./description";
import { completeParams, effectOf } from "./registry";
import { stretchOf, type Stretch } from "./span";

/** The sound that is learnt from: a clip's, a recording's. */
export interface PrePass {
  readonly steps: readonly StepSpec[];
  readonly sampleRate: number;
  readonly frames: number;
  /** Channels of what comes of it: a mono sound is on both sides, but counts once. 2 unless said. */
  readonly channels?: 1 | 2;
  /** Position, in the measure of spans, of the first frame; 0 when left out. */
  readonly origin?: number;
  /** The sound before the first step, from a frame on; silence behind the last. */
  open(from: number): SoundStream;
  sound: Place["sound"];
  /** Room for sound that has to be kept; in memory unless said. */
  spool?(): Spool;
}

/** Whether a step is on and has something to learn. */
export function mustLearn(step: StepSpec): boolean {
  const effect = effectOf(step.effect);
  if (!step.on || !effect.learn) return false;
  return effect.learns?.(completeParams(effect, step.params)) ?? true;
}

function learnerOf(prePass: PrePass, index: number, { from, to }: Stretch): Learner | undefined {
  const step = prePass.steps[index];
  if (!mustLearn(step)) return undefined;
  const effect = effectOf(step.effect);
  return effect.learn?.(completeParams(effect, step.params), prePass.sampleRate, {
    frames: to - from,
    channels: prePass.channels ?? 2,
    spool: () => prePass.spool?.() ?? new MemorySpool()
  });
}

interface Pass {
  readonly index: number;
  readonly learner: Learner;
  readonly chain: Chain;
  readonly input: SoundStream;
  /** Frames that the step treats. */
  readonly stretch: Stretch;
  /** Frame of the owner at which the pass began. */
  readonly begin: number;
  /** Share of what its learner does once all is heard. */
  worked: number;
}

/** Share of a pass that hearing is, for a learner that works after it. */
const HEARING = 0.1;

/** Teaches all steps of a clip, a little at a time. */
export class ChainLearner {
  readonly learnt: (Learnt | undefined)[];
  readonly #block = new StereoBlock();
  #next = 0;
  #pass: Pass | undefined;
  /** Frame of the owner that is read next. */
  #input = 0;

  constructor(private readonly prePass: PrePass) {
    this.learnt = prePass.steps.map(() => undefined);
    this.#open();
  }

  #open(): void {
    const { steps } = this.prePass;
    for (this.#pass = undefined; this.#next < steps.length && !this.#pass; this.#next++)
      this.#pass = this.#passOf(this.#next);
  }

  #passOf(index: number): Pass | undefined {
    const { steps, sampleRate, frames, origin = 0 } = this.prePass;
    const stretch = stretchOf(steps[index].span, frames, origin);
    const learner = stretch && learnerOf(this.prePass, index, stretch);
    if (!stretch || !learner) return undefined;
    const before = steps.slice(0, index);
    // The steps before it run in over all that they remember.
    const begin = Math.max(0, stretch.from - chainTiming(before, sampleRate).settle);
    const chain = new Chain(before, sampleRate, {
      frames,
      origin,
      position: begin,
      learnt: this.learnt,
      sound: (id) => this.prePass.sound(id)
    });
    this.#input = begin;
    return { index, learner, chain, stretch, begin, input: this.prePass.open(begin), worked: 0 };
  }

  /** Whether all has been learnt. */
  get done(): boolean {
    return this.#pass === undefined;
  }

  /** Share that is done, 0 to 1. */
  get progress(): number {
    if (!this.#pass) return 1;
    const { index, begin, stretch, learner, worked } = this.#pass;
    const heard = Math.min(1, (this.#input - begin) / Math.max(1, stretch.to - begin));
    const share = learner.work ? HEARING * heard + (1 - HEARING) * worked : heard;
    return (index + share) / this.prePass.steps.length;
  }

  /** Frames of recordings that the next `advance(n)` reads. */
  needed(n: number): readonly FrameRange[] {
    if (!this.#pass || this.#isHeard(this.#pass)) return [];
    return this.#pass.input.needed(Math.ceil(n / BLOCK) * BLOCK);
  }

  /** Works through about n frames. Returns true when all is done. */
  advance(n: number): boolean {
    for (let worked = 0; worked < n && this.#pass; worked += BLOCK) {
      const pass = this.#pass;
      if (this.#isHeard(pass)) {
        // A part of it is enough for one call, and the next pass has needs of its own.
        pass.worked = pass.learner.work?.() ?? 1;
        if (pass.worked >= 1) this.#close(pass);
        break;
      }
      this.#one(pass);
    }
    return this.done;
  }

  #isHeard({ stretch, chain }: Pass): boolean {
    return this.#input >= stretch.to + chain.timing.latency;
  }

  #one({ learner, chain, input, stretch }: Pass): void {
    const { latency } = chain.timing;
    const l = this.#block.left.ptr;
    const r = this.#block.right.ptr;
    input.read(l, r, BLOCK);
    chain.process(l, r, BLOCK);
    const begin = Math.max(0, stretch.from + latency - this.#input);
    const end = Math.min(BLOCK, stretch.to + latency - this.#input);
    if (end > begin) learner.push(l + begin * 4, r + begin * 4, end - begin);
    this.#input += BLOCK;
  }

  #close({ index, learner, chain, input }: Pass): void {
    this.learnt[index] = learner.finish();
    learner.release();
    chain.release();
    input.release();
    this.#open();
  }

  /** Gives back what has been learnt so far: for one that is given up before it is done. */
  forget(): void {
    for (const one of this.learnt) one?.sound?.release();
  }

  release(): void {
    this.#block.release();
    this.#pass?.learner.release();
    this.#pass?.chain.release();
    this.#pass?.input.release();
  }
}

/** Teaches all steps at once. All frames must be at hand. */
export function learnAll(prePass: PrePass): (Learnt | undefined)[] {
  const learner = new ChainLearner(prePass);
  try {
    while (!learner.advance(1 << 20));
    return learner.learnt;
  } finally {
    learner.release();
  }
}

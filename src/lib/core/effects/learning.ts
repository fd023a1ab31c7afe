// Steps that need the whole of their input first are taught one after the other: for each, the steps before it run over the clip once.
import { BLOCK, StereoBlock } from "../audio/block";
import { MemorySpool } from "../audio/spool";
import { kernels } from "../kernels/instance";
import { Chain, type StepSpec } from "./chain";
import type { Spool, Learner, Learnt, Place } from "./description";
import { completeParams, effectOf } from "./registry";

/** The clip that is learnt from. */
export interface PrePass {
  readonly steps: readonly StepSpec[];
  readonly sampleRate: number;
  readonly frames: number;
  /** Channels of what comes of it: a mono sound is on both sides, but counts once. 2 unless said. */
  readonly channels?: 1 | 2;
  /** Fills two f32 blocks with n frames of the clip from `from` on. */
  read(from: number, n: number, l: number, r: number): void;
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

function learnerOf(prePass: PrePass, index: number): Learner | undefined {
  const step = prePass.steps[index];
  if (!mustLearn(step)) return undefined;
  const effect = effectOf(step.effect);
  return effect.learn?.(completeParams(effect, step.params), prePass.sampleRate, {
    frames: prePass.frames,
    channels: prePass.channels ?? 2,
    spool: () => prePass.spool?.() ?? new MemorySpool()
  });
}

interface Pass {
  readonly index: number;
  readonly learner: Learner;
  readonly chain: Chain;
}

/** Teaches all steps of a clip, a little at a time. */
export class ChainLearner {
  readonly learnt: (Learnt | undefined)[];
  readonly #block = new StereoBlock();
  #next = 0;
  #pass: Pass | undefined;
  #input = 0;

  constructor(private readonly prePass: PrePass) {
    this.learnt = prePass.steps.map(() => undefined);
    this.#open();
  }

  #open(): void {
    const { steps, sampleRate, frames } = this.prePass;
    for (this.#pass = undefined; this.#next < steps.length && !this.#pass; this.#next++) {
      const learner = learnerOf(this.prePass, this.#next);
      if (!learner) continue;
      const chain = new Chain(steps.slice(0, this.#next), sampleRate, {
        frames,
        position: 0,
        learnt: this.learnt,
        sound: (id) => this.prePass.sound(id)
      });
      this.#pass = { index: this.#next, learner, chain };
      this.#input = 0;
    }
  }

  /** Whether all has been learnt. */
  get done(): boolean {
    return this.#pass === undefined;
  }

  /** Share that is done, 0 to 1. */
  get progress(): number {
    if (!this.#pass) return 1;
    const { steps, frames } = this.prePass;
    return (this.#pass.index + Math.min(1, this.#input / Math.max(1, frames))) / steps.length;
  }

  /** Frames of the clip that the next `advance(n)` reads: [from, to). */
  needed(n: number): readonly [from: number, to: number] {
    const { frames } = this.prePass;
    const from = Math.min(this.#input, frames);
    return [from, Math.min(frames, from + Math.ceil(n / BLOCK) * BLOCK)];
  }

  /** Works through about n frames. Returns true when all is done. */
  advance(n: number): boolean {
    for (let worked = 0; worked < n && this.#pass; worked += BLOCK) this.#one(this.#pass);
    return this.done;
  }

  #one({ index, learner, chain }: Pass): void {
    const { frames } = this.prePass;
    const { latency } = chain.timing;
    const l = this.#block.left.ptr;
    const r = this.#block.right.ptr;
    const inside = Math.max(0, Math.min(BLOCK, frames - this.#input));
    if (inside > 0) this.prePass.read(this.#input, inside, l, r);
    kernels.clear(l + inside * 4, BLOCK - inside);
    kernels.clear(r + inside * 4, BLOCK - inside);
    chain.process(l, r, BLOCK);
    const begin = Math.max(0, latency - this.#input);
    const end = Math.min(BLOCK, frames + latency - this.#input);
    if (end > begin) learner.push(l + begin * 4, r + begin * 4, end - begin);
    this.#input += BLOCK;
    if (this.#input < frames + latency) return;
    this.learnt[index] = learner.finish();
    learner.release();
    chain.release();
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
  }
}

/** Teaches all steps at once. `read` must have all frames at hand. */
export function learnAll(prePass: PrePass): (Learnt | undefined)[] {
  const learner = new ChainLearner(prePass);
  try {
    while (!learner.advance(1 << 20));
    return learner.learnt;
  } finally {
    learner.release();
  }
}

// Questions about the sound of clips where they meet, answered by a worker.
import type { BestPlace } from "$lib/core/joins/bestPlace";
import type { Pop } from "$lib/core/joins/check";
import { pairKey, type Correlations } from "$lib/core/session/drop";
import type { Join } from "$lib/core/session/joins";
import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";
import JoinsWorker from "$lib/playback/joins.worker?worker";
import type { FromJoins, JoinsAnswers, JoinsQuestion, ToJoins } from "$lib/playback/joinsProtocol";
import type { Session } from "./session.svelte";

interface Waiting {
  readonly done: (answer: never) => void;
  readonly failed: (error: Error) => void;
  readonly progress?: ((share: number) => void) | undefined;
}

export class Sounds {
  #worker: Worker | undefined;
  #asked = 0;
  readonly #waiting = new Map<number, Waiting>();

  constructor(private readonly session: Session) {}

  #hear(message: FromJoins): void {
    const waiting = this.#waiting.get(message.id);
    if (!waiting) return;
    if (message.type === "progress") {
      waiting.progress?.(message.share);
      return;
    }
    this.#waiting.delete(message.id);
    if (message.type === "failed") waiting.failed(new Error(message.message));
    else waiting.done(message.answer as never);
  }

  #ask<T extends JoinsQuestion["type"]>(
    question: Extract<JoinsQuestion, { type: T }>,
    progress?: (share: number) => void
  ): Promise<JoinsAnswers[T]> {
    if (!this.#worker) {
      this.#worker = new JoinsWorker();
      this.#worker.onmessage = ({ data }: MessageEvent<FromJoins>) => this.#hear(data);
    }
    const id = ++this.#asked;
    const message: ToJoins = { id, sampleRate: this.session.document.sampleRate, question };
    this.#worker.postMessage(message);
    return new Promise((resolve, reject) => {
      this.#waiting.set(id, { done: resolve as (answer: never) => void, failed: reject, progress });
    });
  }

  #resolved(clip: Join["left"]): ResolvedClip {
    return resolveClip(this.session.document, clip);
  }

  /** How alike both sides of joins are, in a crossfade of a length; those that sound already are measured where they overlap. */
  async correlations(joins: readonly Join[], length: number): Promise<Correlations> {
    const pairs = joins.map(({ left, right, overlap }) => {
      const middle = right.start + (overlap >> 1);
      const frames = Math.max(length, 2);
      const from = Math.max(0, middle - (frames >> 1));
      return { left: this.#resolved(left), right: this.#resolved(right), from, to: from + frames };
    });
    const found = await this.#ask({ type: "correlations", pairs });
    return Object.fromEntries(joins.map(({ left, right }, i) => [pairKey(left.id, right.id), found[i] ?? 0]));
  }

  /** Where a join is best, within a reach; null: something begins everywhere. */
  bestPlace({ left, right, overlap }: Join, length: number, reach: number): Promise<BestPlace | null> {
    const middle = right.start + (overlap >> 1);
    return this.#ask({
      type: "best",
      left: this.#resolved(left),
      right: this.#resolved(right),
      middle,
      length,
      reach
    });
  }

  /** The frame nearest to one at which clips cross zero; null: none within reach. */
  zeroCrossing(clips: readonly Join["left"][], at: number, reach: number): Promise<number | null> {
    return this.#ask({ type: "zero", clips: clips.map((clip) => this.#resolved(clip)), at, reach });
  }

  /** Every place that pops, the loudest first. */
  check(progress: (share: number) => void): Promise<readonly Pop[]> {
    return this.#ask({ type: "check", document: this.session.document.toJson() }, progress);
  }

  close(): void {
    this.#worker?.terminate();
  }
}

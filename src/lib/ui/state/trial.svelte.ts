// A preset or a batch heard on one sound, before it is applied to anything.
import { trialOf, type Trial, type TrialSound } from "$lib/core/render/trial";
import { atRate } from "$lib/core/session/make";
import type { RecipeStep, Recording } from "$lib/core/session/schema";
import type { Session } from "./session.svelte";

export interface TrialOrder {
  readonly sound: TrialSound;
  readonly steps: readonly RecipeStep[];
  /** Recordings that the steps ask for, with the frames of their files. */
  readonly recordings: readonly Recording[];
}

export class Trials {
  #order = $state.raw<TrialOrder | null>(null);
  /** Whether it is heard without the chain. */
  before = $state(false);

  constructor(private readonly session: Session) {}

  /** What is tried; null: nothing. */
  get order(): TrialOrder | null {
    return this.#order;
  }

  /** What plays instead of the project; null: the project. */
  get now(): Trial | null {
    if (!this.#order) return null;
    const { sound, steps, recordings } = this.#order;
    const rate = this.session.document.sampleRate;
    const extra = recordings.map((one) => atRate(one, rate));
    return trialOf(this.session.shown, sound, this.before ? [] : steps, extra) ?? null;
  }

  begin(order: TrialOrder): void {
    this.#order = order;
    this.before = false;
  }

  end(): void {
    this.#order = null;
  }
}

// A preset or a batch heard on one sound, before it is applied to anything.
import { equalGains } from "$lib/core/render/compare";
import { trialOf, type Trial, type TrialSound } from "$lib/core/render/trial";
import { resolveClip } from "$lib/core/session/lookup";
import { atRate } from "$lib/core/session/make";
import type { RecipeStep, Recording, Step } from "$lib/core/session/schema";
import { CandidateLevels } from "./candidateLevels.svelte";
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

  /** Whether before and after are equally loud. */
  equalLoudness = $state(true);
  readonly #levels: CandidateLevels;
  /** Its steps as they are measured, and none. */
  #chains = $state.raw<readonly [none: readonly Step[], tried: readonly Step[]]>([[], []]);

  constructor(private readonly session: Session) {
    this.#levels = new CandidateLevels(session, { range: null });
  }

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
    return trialOf(this.session.shown, sound, this.before ? [] : steps, extra, this.#gainDb) ?? null;
  }

  /** What makes before and after equally loud; 0 as long as their levels are not known. */
  get #gainDb(): number {
    if (!this.equalLoudness) return 0;
    const levels = this.#chains.map((steps) => this.#levels.of(steps));
    const [before = 0, after = 0] = equalGains(levels, 1);
    return this.before ? before : after;
  }

  begin(order: TrialOrder): void {
    this.#order = order;
    this.before = false;
    const { sound, steps } = order;
    this.#chains = [[], steps.map((step, i) => ({ ...step, id: `trial-${i}` }))];
    const { shown } = this.session;
    const clip = sound.kind === "clip" ? shown.get("clips", sound.id) : undefined;
    const table = sound.kind === "clip" ? "clips" : "recordings";
    const owner = { table, id: sound.id } as const;
    this.#levels.want({ owner, clip: clip && resolveClip(shown, clip) }, this.#chains);
  }

  end(): void {
    this.#order = null;
  }

  close(): void {
    this.#levels.close();
  }
}

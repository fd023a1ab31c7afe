import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { MIX, ownerName, stepsOfOwner, type Owner } from "$lib/core/session/owners";
import type { Step, Track } from "$lib/core/session/schema";
import type { Session } from "./session.svelte";

/** What lies on the bench: whose chain is treated. */
export interface Subject {
  readonly owner: Owner;
  readonly name: string;
  readonly steps: readonly Step[];
  /** When it is a clip. */
  readonly clip: ResolvedClip | undefined;
}

/** What is selected: clips, or a track or a recording; a step of it; a range of time. With nothing selected the mix is on the bench. */
export class Selection {
  clipIds = $state.raw<readonly string[]>([]);
  readonly ids: ReadonlySet<string> = $derived(new Set(this.clipIds));
  stepId = $state<string | null>(null);
  /** Range in frames on the timeline. */
  range = $state<{ readonly from: number; readonly to: number } | null>(null);
  #other = $state.raw<Owner | null>(null);

  constructor(private readonly session: Session) {}

  /** The clip on the bench: the first selected one that is still there. */
  get found(): { clip: ResolvedClip; track: Track } | undefined {
    for (const id of this.clipIds) {
      const found = findClip(this.session.shown, id);
      if (found) return found;
    }
    return undefined;
  }

  get clip(): ResolvedClip | undefined {
    return this.found?.clip;
  }

  /** Whose chain is on the bench. */
  get subject(): Subject {
    const { clip } = this;
    if (clip) return { owner: { table: "clips", id: clip.id }, name: clip.name, steps: clip.steps, clip };
    const { shown } = this.session;
    const other = this.#other && shown.get(this.#other.table, this.#other.id) ? this.#other : MIX;
    return {
      owner: other,
      name: ownerName(shown, other),
      steps: stepsOfOwner(shown, other),
      clip: undefined
    };
  }

  has(clipId: string): boolean {
    return this.ids.has(clipId);
  }

  /** Selects one clip, or adds and removes it when `more`. */
  choose(clipId: string, more = false): void {
    this.#other = null;
    if (more)
      this.clipIds = this.has(clipId)
        ? this.clipIds.filter((id) => id !== clipId)
        : [...this.clipIds, clipId];
    else if (!(this.clipIds.length === 1 && this.clipIds[0] === clipId)) this.clipIds = [clipId];
    this.#chooseStep();
  }

  /** Selects these clips and no others. */
  chooseAll(clipIds: readonly string[]): void {
    if (clipIds.length === this.clipIds.length && clipIds.every((id) => this.has(id))) return;
    this.#other = null;
    this.clipIds = clipIds;
    this.#chooseStep();
  }

  /** Puts the chain of a track, of a recording or of the mix on the bench. */
  chooseOwner(owner: Owner): void {
    if (owner.table === "clips") {
      this.choose(owner.id);
      return;
    }
    this.clipIds = [];
    this.#other = owner;
    this.#chooseStep();
  }

  /** Whether it is this one's chain that is on the bench. */
  isSubject(owner: Owner): boolean {
    const now = this.subject.owner;
    return now.table === owner.table && now.id === owner.id;
  }

  #chooseStep(): void {
    const { steps } = this.subject;
    if (!steps.some((s) => s.id === this.stepId)) this.stepId = steps[0]?.id ?? null;
  }

  clear(): void {
    this.clipIds = [];
    this.#other = null;
    this.stepId = null;
  }
}

// Computes what changed clips need before they can sound, while they sound on as they did.
import { clipsTouched } from "$lib/core/render/affected";
import type { Plan } from "$lib/core/render/graph";
import { partOf, type SoundPart } from "$lib/core/render/soundPart";
import type { Treatment } from "$lib/core/render/standIns";
import type { Change } from "$lib/core/session/changes";
import type { Document } from "$lib/core/session/document";
import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";

/** What is asked of whoever keeps what has been computed. */
export interface Computes {
  /** Whether a part can sound. */
  knows(part: SoundPart): boolean;
  /** Computes what a part needs; false when it is no longer wanted. @throws when it cannot be computed */
  prepare(
    parts: readonly SoundPart[],
    wanted: () => boolean,
    report: (share: number) => void
  ): Promise<boolean>;
}

export interface BackgroundEvents {
  /** The clips that wait, and the share that is done of the one that is computed now. */
  oncomputing(clipIds: readonly string[], share: number): void;
  /** What clips sound like has changed in the plan: they were computed, or cannot be. */
  onready(): void;
}

function treatmentOf({ steps, recordingSteps, render }: ResolvedClip): Treatment {
  return { steps, recordingSteps, render };
}

export class Background {
  /** Clips that wait. */
  readonly #waiting = new Set<string>();
  #running: Promise<void> | undefined;
  #on = true;

  /**
   * @param plan what plays now
   * @param position where it plays, or would: what is near is computed first
   */
  constructor(
    private readonly plan: () => Plan | undefined,
    private readonly computes: Computes,
    private readonly position: () => number,
    private readonly events: BackgroundEvents
  ) {}

  /** Switched off, clips are computed when they are about to sound. */
  set on(on: boolean) {
    this.#on = on;
    const plan = this.plan();
    if (on || !plan) return;
    if (this.#waiting.size === 0) return;
    for (const id of this.#waiting) plan.hold(id, undefined);
    this.#waiting.clear();
    this.#tell(0);
    this.events.onready();
  }

  /** Until nothing waits any more. */
  get idle(): Promise<void> {
    return this.#running ?? Promise.resolve();
  }

  #tell(share: number): void {
    this.events.oncomputing([...this.#waiting], share);
  }

  /**
   * Call when the plan has gone over to changes: clips that cannot sound yet are held as they sounded, if that can sound, and computed.
   * @param before the document before the changes
   */
  changed(before: Document, changes: readonly Change[]): void {
    const plan = this.plan();
    if (!plan || !this.#on) return;
    const waited = this.#waiting.size;
    let more = false;
    for (const id of clipsTouched(plan.document, changes)) {
      const waits = this.#consider(plan, before, id);
      if (waits && !this.#waiting.has(id)) more = true;
      if (waits) this.#waiting.add(id);
      else this.#waiting.delete(id);
    }
    if (more || this.#waiting.size !== waited) this.#tell(0);
    if (this.#waiting.size > 0) this.#running ??= this.#run().finally(() => (this.#running = undefined));
  }

  /** Whether a clip must wait; then it is held as it was. */
  #consider(plan: Plan, before: Document, id: string): boolean {
    const clip = plan.document.get("clips", id);
    const earlier = plan.held(id) ?? this.#earlier(before, id);
    plan.hold(id, undefined);
    if (!clip || clip.muted) return false;
    const resolved = resolveClip(plan.document, clip);
    if (this.computes.knows(partOf(resolved))) return false;
    if (earlier && this.computes.knows(partOf(plan.treated(resolved, earlier)))) plan.hold(id, earlier);
    return true;
  }

  #earlier(before: Document, id: string): Treatment | undefined {
    const clip = before.get("clips", id);
    return clip && treatmentOf(resolveClip(before, clip));
  }

  /** The clip that waits nearest behind the playhead, else before it. */
  #next(plan: Plan): ResolvedClip | undefined {
    const at = this.position();
    let best: { readonly clip: ResolvedClip; readonly far: number } | undefined;
    for (const id of this.#waiting) {
      const clip = plan.document.get("clips", id);
      if (!clip) continue;
      const over = clip.start + clip.length <= at;
      const far = over ? Number.MAX_SAFE_INTEGER / 2 - clip.start : Math.max(0, clip.start - at);
      if (!best || far < best.far) best = { clip: resolveClip(plan.document, clip), far };
    }
    return best?.clip;
  }

  async #run(): Promise<void> {
    for (;;) {
      const plan = this.plan();
      const clip = plan && this.#next(plan);
      if (!clip) {
        this.#waiting.clear();
        return;
      }
      const part = partOf(clip);
      const wanted = () => this.#waiting.has(clip.id) && this.#partOf(clip.id) === part;
      // What fails is asked for again when it is to sound, and said then.
      const done = await this.computes
        .prepare([part], wanted, (share) => this.#tell(share))
        .catch(() => wanted());
      if (!done || !wanted()) continue;
      this.#waiting.delete(clip.id);
      this.plan()?.hold(clip.id, undefined);
      this.#tell(0);
      this.events.onready();
    }
  }

  #partOf(id: string): SoundPart | undefined {
    const document = this.plan()?.document;
    const clip = document?.get("clips", id);
    return document && clip && partOf(resolveClip(document, clip));
  }
}

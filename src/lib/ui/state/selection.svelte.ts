import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import type { Track } from "$lib/core/session/schema";
import type { Session } from "./session.svelte";

/** What is selected: clips, a step of the first of them, a range of time. */
export class Selection {
  clipIds = $state<readonly string[]>([]);
  stepId = $state<string | null>(null);
  /** Range in frames on the timeline. */
  range = $state<{ readonly from: number; readonly to: number } | null>(null);

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

  has(clipId: string): boolean {
    return this.clipIds.includes(clipId);
  }

  /** Selects one clip, or adds and removes it when `more`. */
  choose(clipId: string, more = false): void {
    if (more)
      this.clipIds = this.has(clipId)
        ? this.clipIds.filter((id) => id !== clipId)
        : [...this.clipIds, clipId];
    else if (!(this.clipIds.length === 1 && this.clipIds[0] === clipId)) this.clipIds = [clipId];
    if (!this.clip?.steps.some((s) => s.id === this.stepId)) this.stepId = this.clip?.steps[0]?.id ?? null;
  }

  clear(): void {
    this.clipIds = [];
    this.stepId = null;
  }
}

// What clips sound like while what their steps need is still being computed: their treatment as it was.
import type { ResolvedClip } from "../session/lookup";

/** All that treats a clip: of itself, of its recording, and the render that holds some of it. */
export type Treatment = Pick<ResolvedClip, "steps" | "recordingSteps" | "render">;

export class StandIns {
  readonly #treatments = new Map<string, Treatment>();
  /** What was made last for a clip: the same object for the same clip. */
  readonly #made = new WeakMap<ResolvedClip, { readonly of: Treatment; readonly clip: ResolvedClip }>();

  get(clipId: string): Treatment | undefined {
    return this.#treatments.get(clipId);
  }

  /** @param treatment undefined: the clip sounds as its document says. Returns whether anything changed. */
  set(clipId: string, treatment: Treatment | undefined): boolean {
    const before = this.#treatments.get(clipId);
    if (!treatment) return this.#treatments.delete(clipId);
    this.#treatments.set(clipId, treatment);
    return before !== treatment;
  }

  /** The clip as it sounds. */
  as(clip: ResolvedClip): ResolvedClip {
    if (this.#treatments.size === 0) return clip;
    const treatment = this.#treatments.get(clip.id);
    return treatment ? this.with(clip, treatment) : clip;
  }

  /** The clip with another treatment. */
  with(clip: ResolvedClip, treatment: Treatment): ResolvedClip {
    const known = this.#made.get(clip);
    if (known?.of === treatment) return known.clip;
    const { steps, recordingSteps, render } = treatment;
    const made = { ...clip, steps, recordingSteps, render };
    this.#made.set(clip, { of: treatment, clip: made });
    return made;
  }
}

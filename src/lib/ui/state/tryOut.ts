// Hearing a chain on one sound before it is applied: round and round, without touching the project.
import type { TrialSound } from "$lib/core/render/trial";
import type { RecipeStep, Recording } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";

/** Starts it, or stops what is tried. */
export function tryOut(
  { trials, transport }: Editor,
  sound: TrialSound,
  steps: readonly RecipeStep[],
  recordings: readonly Recording[]
): void {
  if (trials.order) {
    stopTrial({ trials, transport });
    return;
  }
  if (transport.playing) transport.toggle();
  trials.begin({ sound, steps, recordings });
  const { now } = trials;
  if (!now) return;
  transport.giveDocument();
  transport.playRound(now.from, now.to);
}

export function stopTrial({ trials, transport }: Pick<Editor, "trials" | "transport">): void {
  if (!trials.order) return;
  if (transport.playing) transport.toggle();
  trials.end();
}

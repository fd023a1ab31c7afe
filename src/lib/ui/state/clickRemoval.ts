// A click taken out by hand: cut between the nearest zero crossings, closed inside its clip, joined.
import { notices } from "../shared/notices.svelte";
import { newId } from "./editing";
import type { Editor } from "./editor.svelte";
import type { Clip } from "$lib/core/session/schema";

/** Zero crossings are looked for this far from the range's ends, seconds. */
const REACH_SECONDS = 0.005;
/** Longest range that is taken for a click, seconds. */
const MOST_SECONDS = 0.5;
/** The join's crossfade, seconds. */
const BLEND_SECONDS = 0.001;

/** The clip in the middle of which a short range lies. */
export function clickToRemove({
  selection,
  sampleRate
}: Editor): { clip: Clip; from: number; to: number } | undefined {
  const { range, targets } = selection;
  const [only] = targets;
  if (!range || !only || targets.length !== 1 || range.to - range.from > MOST_SECONDS * sampleRate)
    return undefined;
  const { clip } = only;
  const inside = range.from > clip.start && range.to < clip.start + clip.length;
  return inside ? { clip, from: range.from, to: range.to } : undefined;
}

/**
 * Takes the range out of its clip: cut at the nearest zero crossings outside of it, closed, and joined with a crossfade of a millisecond. What
 * comes later in the clip moves up, so the clip becomes shorter; other clips stay where they are.
 */
export async function removeClick(editor: Editor): Promise<void> {
  const found = clickToRemove(editor);
  if (!found) return;
  const { session, sounds, sampleRate, selection, transport } = editor;
  const { clip } = found;
  const reach = Math.round(REACH_SECONDS * sampleRate);
  const from = (await sounds.zeroCrossing([clip], found.from - reach, reach)) ?? found.from;
  const to = (await sounds.zeroCrossing([clip], found.to + reach, reach)) ?? found.to;
  const blend = Math.max(2, Math.round(BLEND_SECONDS * sampleRate));
  const done = session.run({
    type: "clip.takeOut",
    clipId: clip.id,
    from: Math.max(clip.start + 1, from),
    to: Math.min(clip.start + clip.length - 1, to),
    blend,
    seed: newId()
  });
  if (!done) return;
  selection.range = null;
  transport.locate(from);
  notices.news(`${(((to - from) / sampleRate) * 1000).toFixed(1)} ms are taken out of ${clip.name}.`);
}

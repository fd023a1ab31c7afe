// What is selected, and what of the document that is: every action asks `targets`.
import type { Clip } from "./schema";
import type { Tables } from "./tables";
import { byPlace, tracksInOrder } from "./lookup";

/** A stretch of the timeline in frames, [from, to), on some tracks; null: on those of the selected clips, or all. */
export interface Range {
  readonly from: number;
  readonly to: number;
  readonly tracks: readonly string[] | null;
}

/** Clips, and a stretch of time: of one's own choice, or that of a section. */
export interface Selected {
  readonly clips: readonly string[];
  readonly stretch: Range | { readonly section: string } | null;
}

export const NOTHING_SELECTED: Selected = { clips: [], stretch: null };

/** A clip, or the part of it that is meant, in frames of the timeline. */
export interface Target {
  readonly clip: Clip;
  readonly from: number;
  readonly to: number;
  /** Whether it is all of the clip. */
  readonly whole: boolean;
}

/** The selected stretch of time; null without one, or when its section is gone. */
export function rangeOf(doc: Tables, { stretch }: Selected): Range | null {
  if (!stretch || !("section" in stretch)) return stretch;
  const section = doc.get("sections", stretch.section);
  return section ? { from: section.start, to: section.start + section.length, tracks: null } : null;
}

/** The selected clips that are there, in the order in which they were selected. */
export function clipsOf(doc: Tables, { clips }: Selected): Clip[] {
  return clips.flatMap((id) => doc.get("clips", id) ?? []);
}

/** Tracks, from the top, that a range lies on: its own, those of the selected clips, or all. */
export function tracksOf(doc: Tables, selected: Selected): string[] {
  const range = rangeOf(doc, selected);
  const own = range?.tracks ? new Set(range.tracks) : undefined;
  const clips = new Set(clipsOf(doc, selected).map((clip) => clip.track));
  const wanted = own ?? (clips.size > 0 ? clips : undefined);
  return tracksInOrder(doc).flatMap(({ id }) => (!wanted || wanted.has(id) ? [id] : []));
}

/**
 * What an action works on. With a range: the parts that lie in it, of the selected clips, or, where none is selected, of all clips on its tracks.
 * Without: the selected clips.
 */
export function targets(doc: Tables, selected: Selected): Target[] {
  const range = rangeOf(doc, selected);
  const chosen = clipsOf(doc, selected);
  if (!range)
    return chosen.map((clip) => ({ clip, from: clip.start, to: clip.start + clip.length, whole: true }));
  const tracks = new Set(tracksOf(doc, selected));
  const clips = chosen.length > 0 ? chosen : [...doc.values("clips")].sort(byPlace);
  return clips.flatMap((clip) => {
    const from = Math.max(range.from, clip.start);
    const to = Math.min(range.to, clip.start + clip.length);
    if (to <= from || !tracks.has(clip.track)) return [];
    return [{ clip, from, to, whole: from === clip.start && to === clip.start + clip.length }];
  });
}

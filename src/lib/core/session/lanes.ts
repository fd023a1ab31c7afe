// Clips by track and time, as rules of placing ask for them.
import type { Clip } from "./schema";
import type { Tables } from "./tables";
import { TimelineIndex } from "./timelineIndex";

export interface Lanes {
  /** Clips of a track that touch [from, to), by when they begin. */
  overlapping(track: string, from: number, to: number): readonly Clip[];
}

/** The lanes of some tracks, found by going through all clips once. */
export function lanesOf(doc: Tables, tracks: Iterable<string>): Lanes {
  const wanted = new Set(tracks);
  const clips: Clip[] = [];
  for (const clip of doc.values("clips")) if (wanted.has(clip.track)) clips.push(clip);
  return new TimelineIndex(clips);
}

/** From where to where some clips lie, by track. */
export function stretchesOf(
  clips: Iterable<Clip>
): Map<string, { readonly from: number; readonly to: number }> {
  const stretches = new Map<string, { from: number; to: number }>();
  for (const { track, start, length } of clips) {
    const known = stretches.get(track);
    if (!known) stretches.set(track, { from: start, to: start + length });
    else {
      known.from = Math.min(known.from, start);
      known.to = Math.max(known.to, start + length);
    }
  }
  return stretches;
}

export const endOf = (clip: Pick<Clip, "start" | "length">): number => clip.start + clip.length;

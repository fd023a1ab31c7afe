// Moving clips, all of them by the same time and the same number of tracks.
import type { SingleCommand } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import type { Correlations, DropRule } from "$lib/core/session/drop";
import { tracksInOrder } from "$lib/core/session/lookup";
import type { Clip } from "$lib/core/session/schema";

/** Clips that move, and the tracks from the top that they move on. */
export interface Moving {
  readonly clips: readonly Clip[];
  readonly tracks: readonly string[];
}

/** How far: in frames, and in tracks downwards. */
export interface Shift {
  readonly frames: number;
  readonly lanes: number;
}

/** The clips of these ids that are there. */
export function movingOf(doc: Document, clipIds: readonly string[]): Moving {
  const clips = clipIds.flatMap((id) => doc.get("clips", id) ?? []);
  return { clips, tracks: tracksInOrder(doc).map((track) => track.id) };
}

/** How far clips can move when they are to move so far, all alike: none goes before the start, above the first or below the last track. */
export function possibleShift({ clips, tracks }: Moving, { frames, lanes }: Shift): Shift {
  if (clips.length === 0) return { frames: 0, lanes: 0 };
  const places = new Map(tracks.map((id, i) => [id, i]));
  let [first, top, bottom] = [Infinity, Infinity, 0];
  for (const { start, track } of clips) {
    const place = places.get(track) ?? 0;
    [first, top, bottom] = [Math.min(first, start), Math.min(top, place), Math.max(bottom, place)];
  }
  return {
    frames: Math.max(frames, -first),
    lanes: Math.min(Math.max(lanes, -top), tracks.length - 1 - bottom)
  };
}

/** The clips where a possible shift puts them. */
export function shiftedClips({ clips, tracks }: Moving, shift: Shift): Clip[] {
  const places = new Map(tracks.map((id, i) => [id, i]));
  return clips.map((clip) => ({
    ...clip,
    start: clip.start + shift.frames,
    track: tracks[(places.get(clip.track) ?? 0) + shift.lanes] ?? clip.track
  }));
}

/** The command that moves clips, as far as they can. null when nothing moves. */
export function moveCommand(
  moving: Moving,
  wanted: Shift,
  rule: DropRule,
  seed: string,
  correlations?: Correlations
): SingleCommand | null {
  const shift = possibleShift(moving, wanted);
  if (shift.frames === 0 && shift.lanes === 0) return null;
  const clips = shiftedClips(moving, shift).map(({ id, track, start }) => ({
    clipId: id,
    trackId: track,
    start
  }));
  return {
    type: "clip.place",
    clips,
    rule,
    seed,
    ...(correlations ? { correlations: { ...correlations } } : {})
  };
}

// Moving clips, one or many, along their tracks and to others: by the pointer and by keys.
import type { Command, SingleCommand } from "$lib/core/session/commands";
import { tracksInOrder } from "$lib/core/session/lookup";
import type { Document } from "$lib/core/session/document";
import type { Clip } from "$lib/core/session/schema";

/** Most clips that move as one edit. */
const MOST = 1000;

/** Clips as they are before they move, and the tracks from the top. */
export interface Moving {
  readonly clips: readonly Clip[];
  readonly tracks: readonly string[];
}

/** How far clips move: frames along the timeline, tracks downwards. */
export interface Shift {
  readonly frames: number;
  readonly lanes: number;
}

/** The clips of these ids that are there. */
export function movingOf(doc: Document, clipIds: readonly string[]): Moving {
  const clips = clipIds.flatMap((id) => doc.get("clips", id) ?? []).slice(0, MOST);
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

/** The command that moves clips, as far as they can. null when nothing moves. */
export function moveCommand(moving: Moving, wanted: Shift): Command | null {
  const { clips, tracks } = moving;
  const shift = possibleShift(moving, wanted);
  if (shift.frames === 0 && shift.lanes === 0) return null;
  const commands = clips.map((clip): SingleCommand => {
    const trackId = tracks[tracks.indexOf(clip.track) + shift.lanes] ?? clip.track;
    return { type: "clip.move", clipId: clip.id, trackId, start: clip.start + shift.frames };
  });
  const [only] = commands;
  return commands.length === 1 && only
    ? only
    : { type: "compound", name: `move ${commands.length} clips`, commands };
}

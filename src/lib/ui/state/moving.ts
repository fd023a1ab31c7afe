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

/** The clips of these ids that are there. */
export function movingOf(doc: Document, clipIds: readonly string[]): Moving {
  const clips = clipIds.flatMap((id) => doc.get("clips", id) ?? []).slice(0, MOST);
  return { clips, tracks: tracksInOrder(doc).map((track) => track.id) };
}

/**
 * The command that moves clips by frames and by tracks, all alike: none goes before the start, above the first or below the last track.
 * null when nothing moves.
 */
export function moveCommand({ clips, tracks }: Moving, by: number, lanes: number): Command | null {
  if (clips.length === 0) return null;
  const places = clips.map((clip) => tracks.indexOf(clip.track));
  const frames = Math.max(by, -Math.min(...clips.map((clip) => clip.start)));
  const down = Math.min(Math.max(lanes, -Math.min(...places)), tracks.length - 1 - Math.max(...places));
  if (frames === 0 && down === 0) return null;
  const commands = clips.map((clip, i): SingleCommand => {
    const trackId = tracks[(places[i] ?? 0) + down] ?? clip.track;
    return { type: "clip.move", clipId: clip.id, trackId, start: clip.start + frames };
  });
  const [only] = commands;
  return commands.length === 1 && only
    ? only
    : { type: "compound", name: `move ${commands.length} clips`, commands };
}

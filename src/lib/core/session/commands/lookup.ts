// Finding what a command names, or refusing it.
import { findClip, findRecording } from "../document";
import type { Clip, Document, Recording, Step, Track } from "../schema";
import { CommandRefused } from "./command";

export function needTrack(doc: Document, id: string): Track {
  const track = doc.tracks.find((t) => t.id === id);
  if (!track) throw new CommandRefused("The track is no longer there.");
  return track;
}

export function needClip(doc: Document, id: string): { clip: Clip; track: Track } {
  const found = findClip(doc, id);
  if (!found) throw new CommandRefused("The clip is no longer there.");
  return found;
}

export function needRecording(doc: Document, id: string): Recording {
  const recording = findRecording(doc, id);
  if (!recording) throw new CommandRefused("The recording is no longer in this project.");
  return recording;
}

export function needStep(clip: Clip, id: string): { step: Step; index: number } {
  const index = clip.steps.findIndex((s) => s.id === id);
  if (index < 0) throw new CommandRefused(`"${clip.name}" no longer has that step.`);
  return { step: clip.steps[index], index };
}

/** Refuses ids that are already taken. */
export function needNew(taken: readonly { id: string }[], id: string, what: string): void {
  if (taken.some((t) => t.id === id)) throw new CommandRefused(`There is already a ${what} with that id.`);
}

/** "Engineer 2", or "3 clips". */
export function clipsNamed(doc: Document, ids: readonly string[]): string {
  return ids.length === 1 ? (findClip(doc, ids[0])?.clip.name ?? "clip") : `${ids.length} clips`;
}

/** Frames that the window of a clip may show: those of its recording. */
export function needWindow(
  doc: Document,
  clip: Pick<Clip, "recordingId" | "offset" | "length" | "name">
): void {
  const recording = needRecording(doc, clip.recordingId);
  if (clip.offset + clip.length > recording.frames)
    throw new CommandRefused(`"${clip.name}" would reach beyond the end of its recording.`);
}

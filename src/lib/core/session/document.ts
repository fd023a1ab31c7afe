// Looking things up in a document, and making new ones.
import type { Clip, Document, Recording, Track } from "./schema";

/** An empty project with one track. */
export function emptyDocument(name: string, sampleRate: Document["sampleRate"]): Document {
  return {
    format: "wring/project/1",
    name,
    sampleRate,
    tracks: [newTrack("track-1", "Track 1")],
    sections: [],
    recordings: []
  };
}

export function newTrack(id: string, name: string): Track {
  return { id, name, gainDb: 0, pan: 0, muted: false, solo: false, clips: [] };
}

/** A clip that shows a whole recording, untreated. */
export function newClip(id: string, recording: Recording, start: number): Clip {
  return {
    id,
    name: recording.name,
    recordingId: recording.id,
    start,
    offset: 0,
    length: recording.frames,
    gainDb: 0,
    muted: false,
    fadeIn: { length: 0, curve: "straight" },
    fadeOut: { length: 0, curve: "straight" },
    steps: [],
    render: null
  };
}

export function findClip(doc: Document, clipId: string): { clip: Clip; track: Track } | undefined {
  for (const track of doc.tracks) {
    const clip = track.clips.find((c) => c.id === clipId);
    if (clip) return { clip, track };
  }
  return undefined;
}

export function findRecording(doc: Document, recordingId: string): Recording | undefined {
  return doc.recordings.find((r) => r.id === recordingId);
}

/** Names of the other clips that use the same recording. */
export function sharers(doc: Document, clip: Clip): Clip[] {
  return doc.tracks
    .flatMap((t) => t.clips)
    .filter((c) => c.recordingId === clip.recordingId && c.id !== clip.id);
}

/** End of the last clip or section, in frames. */
export function programmeEnd(doc: Document): number {
  let end = 0;
  for (const track of doc.tracks)
    for (const clip of track.clips) end = Math.max(end, clip.start + clip.length);
  return end;
}

// A document as an OpenTimelineIO timeline.
import type { Document } from "../session/document";
import { sectionsInOrder, tracksInOrder } from "../session/lookup";
import type { Clip } from "../session/schema";
import type { RationalTime, TimeRange } from "./otioSchema";

/** Under this name programs leave what is theirs alone. */
export const OWN = "wring";

/** Clips of a track in as few rows as they need so that none overlap in a row: tracks of OpenTimelineIO know no overlaps. */
export function rowsOf(clips: readonly Clip[]): Clip[][] {
  const rows: Clip[][] = [];
  for (const clip of [...clips].sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1))) {
    const free = rows.find((row) => {
      const last = row.at(-1);
      return !last || last.start + last.length <= clip.start;
    });
    if (free) free.push(clip);
    else rows.push([clip]);
  }
  return rows;
}

/** What of a document OpenTimelineIO cannot carry, in words for people. */
export function leftOut(doc: Document): string[] {
  const missing: string[] = [];
  const chains = [...doc.values("clips"), ...doc.values("tracks"), ...doc.values("recordings")].filter(
    ({ chain }) => chain !== null
  ).length;
  if (chains > 0 || doc.project.mix.chain !== null)
    missing.push("steps of clips, tracks, recordings and the mix: deliver stems to hand over treated sound");
  const renders = [...doc.values("clips")].filter(({ render }) => render !== null).length;
  if (renders > 0) missing.push("which clips are rendered");
  return missing;
}

/**
 * The timeline as JSON, every time at the project's rate. Clips, windows, fades, gains, mutes, tracks with gain and pan, sections as markers.
 * Fades and gains lie in metadata, since OpenTimelineIO has no fields for them.
 * @param urlOf where the audio of a recording lies, by its id
 */
export function toOtio(doc: Document, urlOf: (recordingId: string) => string): object {
  const rate = doc.sampleRate;
  const time = (value: number): RationalTime => ({ OTIO_SCHEMA: "RationalTime.1", rate, value });
  const range = (start: number, length: number): TimeRange => ({
    OTIO_SCHEMA: "TimeRange.1",
    start_time: time(start),
    duration: time(length)
  });
  const clipOf = ({ name, content, offset, length, gainDb, line, muted, fadeIn, fadeOut }: Clip) => {
    const recording = doc.get("recordings", content.recordingId);
    return {
      OTIO_SCHEMA: "Clip.2",
      name,
      enabled: !muted,
      source_range: range(offset, length),
      media_references: {
        DEFAULT_MEDIA: {
          OTIO_SCHEMA: "ExternalReference.1",
          name: recording?.name ?? "",
          available_range: range(0, recording?.frames ?? 0),
          target_url: urlOf(content.recordingId),
          metadata: {}
        }
      },
      active_media_reference_key: "DEFAULT_MEDIA",
      effects: [],
      markers: [],
      metadata: { [OWN]: { gainDb, muted, fadeIn, fadeOut, ...(line ? { line } : {}) } }
    };
  };
  const gap = (length: number) => ({
    OTIO_SCHEMA: "Gap.1",
    name: "",
    source_range: range(0, length),
    metadata: {}
  });
  const tracks = tracksInOrder(doc).flatMap(
    ({ id, name, gainDb, pan, muted, solo, role, gainLine, panLine }) => {
      const clips = [...doc.values("clips")].filter((clip) => clip.track === id);
      const rows = clips.length === 0 ? [[]] : rowsOf(clips);
      return rows.map((row) => {
        let at = 0;
        const children = row.flatMap((clip) => {
          const before = clip.start > at ? [gap(clip.start - at)] : [];
          at = clip.start + clip.length;
          return [...before, clipOf(clip)];
        });
        const more = {
          ...(role ? { role } : {}),
          ...(gainLine ? { gainLine } : {}),
          ...(panLine ? { panLine } : {})
        };
        const own = { track: id, gainDb, pan, muted, solo, ...more };
        return {
          OTIO_SCHEMA: "Track.1",
          name,
          kind: "Audio",
          enabled: !muted,
          source_range: null,
          children,
          effects: [],
          markers: [],
          metadata: { [OWN]: own }
        };
      });
    }
  );
  return {
    OTIO_SCHEMA: "Timeline.1",
    name: doc.name,
    global_start_time: null,
    metadata: { [OWN]: { sampleRate: rate, mixGainDb: doc.project.mix.gainDb } },
    tracks: {
      OTIO_SCHEMA: "Stack.1",
      name: "tracks",
      source_range: null,
      children: tracks,
      effects: [],
      markers: sectionsInOrder(doc).map(({ name, start, length }) => ({
        OTIO_SCHEMA: "Marker.2",
        name,
        color: "RED",
        marked_range: range(start, length),
        comment: "",
        metadata: {}
      })),
      metadata: {}
    }
  };
}

// Looking things up in a document.
import { compareNames } from "./nameOrder";
import type { Clip, Recording, Section, Step, Track } from "./schema";
import { stepsOfChain } from "./owners";
import type { Tables } from "./tables";

/** A clip with what it shows and the steps that it goes through: what is computed, drawn and treated. */
export type ResolvedClip = Clip & {
  readonly recordingId: string;
  readonly recordingFrames: number;
  /** The steps of the recording's own chain. */
  readonly recordingSteps: readonly Step[];
  readonly steps: readonly Step[];
};

const resolvedClips = new WeakMap<Clip, ResolvedClip>();

/** A clip with its steps. The same object as long as neither clip, recording nor chains change. */
export function resolveClip(doc: Tables, clip: Clip): ResolvedClip {
  const steps = stepsOfChain(doc, clip.chain);
  const { recordingId } = clip.content;
  const recording = doc.get("recordings", recordingId);
  const recordingSteps = stepsOfChain(doc, recording?.chain ?? null);
  const recordingFrames = recording?.frames ?? 0;
  const known = resolvedClips.get(clip);
  if (
    known?.steps === steps &&
    known.recordingSteps === recordingSteps &&
    known.recordingFrames === recordingFrames
  )
    return known;
  const made = { ...clip, recordingId, recordingFrames, recordingSteps, steps };
  resolvedClips.set(clip, made);
  return made;
}

type Placed = { readonly id: string; readonly start: number };

/** Orders clips or sections as they lie in time. */
export const byPlace = (a: Placed, b: Placed): number => a.start - b.start || (a.id < b.id ? -1 : 1);

/** Tracks from the top to the bottom. */
export function tracksInOrder(doc: Tables): Track[] {
  return [...doc.values("tracks")].sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1));
}

/** An order by which a track lies right below another; above all when there is no such track. */
export function orderBelow(doc: Tables, trackId: string): number {
  const all = tracksInOrder(doc);
  const at = all.findIndex((track) => track.id === trackId);
  const [above, below] = [all[at]?.order ?? 0, all[at + 1]?.order];
  return below === undefined ? above + 1 : (above + below) / 2;
}

/** A clip with its steps, and its track. */
export function findClip(doc: Tables, clipId: string): { clip: ResolvedClip; track: Track } | undefined {
  const clip = doc.get("clips", clipId);
  const track = clip && doc.get("tracks", clip.track);
  return clip && track ? { clip: resolveClip(doc, clip), track } : undefined;
}

/** Recordings by name. */
export function recordingsByName(doc: Tables): Recording[] {
  return [...doc.values("recordings")].sort((a, b) => compareNames(a.name, b.name) || (a.id < b.id ? -1 : 1));
}

/** Sections by when they begin. */
export function sectionsInOrder(doc: Tables): Section[] {
  return [...doc.values("sections")].sort(byPlace);
}

/** The other clips that show the same recording. */
export function sharers(doc: Tables, clip: Clip): Clip[] {
  const { recordingId } = clip.content;
  if (doc.uses("recordings", recordingId) < 2) return [];
  return [...doc.values("clips")].filter((c) => c.content.recordingId === recordingId && c.id !== clip.id);
}

/** End of the last clip, in frames. */
export function programmeEnd(doc: Tables): number {
  let end = 0;
  for (const clip of doc.values("clips")) end = Math.max(end, clip.start + clip.length);
  return end;
}

/** A place for a track below all others. */
export function nextOrder(doc: Tables): number {
  let last = 0;
  for (const track of doc.values("tracks")) last = Math.max(last, track.order);
  return last + 1;
}

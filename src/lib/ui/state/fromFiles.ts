// What people do with what files say of themselves: their markers, their time, their other sound tracks.
import { originalStart, sectionsOfMarkers } from "$lib/core/session/markers";
import { newSection } from "$lib/core/session/make";
import type { Clip, Recording } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";
import { addClip, newId } from "./editing";
import { recordingOf } from "./target";

/** The clip that shows a recording's markers: the selected one, else the first on the timeline. */
export function markedClip(editor: Editor): { clip: Clip; recording: Recording } | undefined {
  const recording = recordingOf(editor);
  if (!recording || (recording.about?.markers.length ?? 0) === 0) return undefined;
  const { session, selection } = editor;
  const shown = [...session.shown.values("clips")]
    .filter((clip) => clip.content.recordingId === recording.id)
    .sort((a, b) => a.start - b.start);
  const clip = shown.find(({ id }) => id === selection.clip?.id) ?? shown[0];
  return clip ? { clip, recording } : undefined;
}

/** Markers of a recording become sections where its clip shows them; those that are there already are left out. */
export function sectionsFromMarkers(editor: Editor): void {
  const marked = markedClip(editor);
  if (!marked) return;
  const { session } = editor;
  const known = [...session.shown.values("sections")];
  const fresh = sectionsOfMarkers(marked.clip, marked.recording).filter(
    (one) => !known.some((s) => s.name === one.name && s.start === one.start && s.length === one.length)
  );
  if (fresh.length === 0) return;
  session.run({
    type: "compound",
    name: `sections of ${marked.recording.name}`,
    commands: fresh.map(({ name, start, length }) => ({
      type: "section.add" as const,
      section: newSection(newId(), name, start, length)
    }))
  });
}

/** Where a selected clip would begin if its recording lay where it was recorded. */
function originalStarts({ session, selection, sampleRate }: Editor): { clip: Clip; start: number }[] {
  return selection.clipIds.flatMap((id) => {
    const clip = session.shown.get("clips", id);
    const recording = clip && session.shown.get("recordings", clip.content.recordingId);
    const start = recording && originalStart(recording, sampleRate);
    return clip && start !== undefined ? [{ clip, start: start + clip.offset }] : [];
  });
}

export function hasOriginalTime(editor: Editor): boolean {
  return originalStarts(editor).length > 0;
}

/** Puts selected clips where they were recorded: a single one at that time of day, several as they lay to each other, the first staying where it is. */
export function placeAtOriginalTime(editor: Editor): void {
  const placed = originalStarts(editor);
  const [first] = [...placed].sort((a, b) => a.start - b.start);
  if (!first) return;
  const shift = placed.length > 1 ? first.clip.start - first.start : 0;
  const made = editor.session.run({
    type: "compound",
    name:
      placed.length === 1
        ? `place ${first.clip.name} at its time`
        : `place ${placed.length} clips at their times`,
    commands: placed.map(({ clip, start }) => ({
      type: "clip.move" as const,
      clipId: clip.id,
      trackId: clip.track,
      start: start + shift
    }))
  });
  const begin = first.start + shift;
  if (made) editor.view.reveal(begin, begin + first.clip.length);
}

/** Adds a recording where it was recorded. */
export function addAtOriginalTime(editor: Editor): void {
  const recording = recordingOf(editor);
  const start = recording && originalStart(recording, editor.sampleRate);
  if (recording && start !== undefined) addClip(editor, recording, undefined, start);
}

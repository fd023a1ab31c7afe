// Where on the timeline lies what is drawn of a subject.
import type { Editor } from "../../state/editor.svelte";
import { programmeEnd } from "$lib/core/session/lookup";

/** Frames of the timeline that the pictures of the subject on the bench show; undefined for a recording, which has no place there. */
export function subjectTime({ selection, session }: Editor): { from: number; to: number } | undefined {
  const { clip, owner } = selection.subject;
  if (clip) return { from: clip.start, to: clip.start + clip.length };
  if (owner.table === "recordings") return undefined;
  return selection.range ?? { from: 0, to: programmeEnd(session.shown) };
}

/** Frames of the timeline that the pair of waveforms shows: all of the subject, or what the timeline shows of the clip. */
export function shownTime(editor: Editor): { from: number; to: number } | undefined {
  const whole = subjectTime(editor);
  const { layout, view, selection } = editor;
  if (!whole || !layout.zoomed || !selection.clip) return whole;
  const from = Math.max(whole.from, view.left);
  const to = Math.min(whole.to, view.left + view.frames);
  return to > from ? { from, to } : whole;
}

/** Share of the subject at which the playhead stands; undefined when it stands outside. */
export function playedShare(editor: Editor): number | undefined {
  const time = subjectTime(editor);
  const { position } = editor.transport;
  if (!time || position < time.from || position >= time.to) return undefined;
  return (position - time.from) / (time.to - time.from);
}

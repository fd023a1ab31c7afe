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

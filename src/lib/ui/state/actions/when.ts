// When actions can be done.
import { hearsBeyond } from "$lib/core/session/heard";
import { stepsOfOwner } from "$lib/core/session/owners";
import type { Editor } from "../editor.svelte";
import { trackOf } from "../target";

export const always = () => true;
export const withClip = (editor: Editor) => editor.selection.clip !== undefined;
export const restorable = ({ selection, session }: Editor) =>
  selection.clipIds.some((id) => Boolean(session.shown.get("clips", id)?.render));
/** Clips whose chains hear on what they were cut off. */
export const beyond = ({ selection, session }: Editor) =>
  selection.clipIds.some((id) => {
    const clip = session.shown.get("clips", id);
    return clip !== undefined && hearsBeyond(clip);
  });
export const withTargets = (editor: Editor) => editor.selection.targets.length > 0;
export const treated = (editor: Editor) => (editor.selection.clip?.steps.length ?? 0) > 0;
/** Clips with a step that is on, or several that can become one recording. */
export const renderable = ({ selection, session }: Editor) =>
  selection.clipIds.length > 1 ||
  selection.clipIds.some((id) => stepsOfOwner(session.shown, { table: "clips", id }).some(({ on }) => on));
export const severalClips = (editor: Editor) => editor.selection.clipIds.length > 1;
export const withTrack = (editor: Editor) => trackOf(editor) !== undefined;
export const chained = (editor: Editor) => editor.selection.rows.length > 0;
export const withRow = (editor: Editor) => editor.selection.row !== undefined;

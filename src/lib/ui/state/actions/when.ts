// When actions can be done.
import type { Editor } from "../editor.svelte";
import { trackOf } from "../target";

export const always = () => true;
export const withClip = (editor: Editor) => editor.selection.clip !== undefined;
export const restorable = (editor: Editor) => Boolean(editor.selection.clip?.render);
export const withTargets = (editor: Editor) => editor.selection.targets.length > 0;
export const treated = (editor: Editor) => (editor.selection.clip?.steps.length ?? 0) > 0;
export const chained = (editor: Editor) => editor.selection.subject.steps.length > 0;
export const withTrack = (editor: Editor) => trackOf(editor) !== undefined;
export const chosenStep = (editor: Editor) => {
  const { subject, stepId } = editor.selection;
  return subject.steps.find((step) => step.id === stepId);
};

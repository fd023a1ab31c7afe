// A fade on a recording: a step of its chain, heard by every clip that shows it.
import { newStep } from "$lib/core/session/make";
import { spanWithin } from "$lib/core/session/spans";
import type { Clip, Recording } from "$lib/core/session/schema";
import { effectOf } from "$lib/core/effects/registry";
import { defaultParams } from "$lib/core/effects/description";
import { newId } from "./editing";
import type { Editor } from "./editor.svelte";

/** What would be faded: a recording, the stretch of it in its own frames, and the clips that hear it. */
export interface RecordingFade {
  readonly recording: Recording;
  readonly from: number;
  readonly to: number;
  readonly clips: readonly Clip[];
}

/** The fade that the selection asks for: over the range in the selected clip, on the recording behind it. */
export function fadeableRecording({ selection, session }: Editor): RecordingFade | undefined {
  const { clip, range } = selection;
  if (!clip || !range) return undefined;
  const recording = session.shown.get("recordings", clip.recordingId);
  const span = spanWithin(session.shown, { table: "clips", id: clip.id }, range);
  if (!recording || !span) return undefined;
  const clips = [...session.shown.values("clips")].filter((one) => one.content.recordingId === recording.id);
  return { recording, ...span, clips };
}

/** Fades the recording in or out over its stretch, as a step of its chain with its span. */
export function fadeRecording(editor: Editor, fade: RecordingFade, edge: "in" | "out", curve: string): void {
  const effect = effectOf("fade");
  const seconds = (fade.to - fade.from) / editor.sampleRate;
  const own: Record<string, number | string> =
    edge === "in" ? { inS: seconds, inCurve: curve } : { outS: seconds, outCurve: curve };
  const step = newStep(newId(), effect.id, { ...defaultParams(effect), ...own });
  const owner = { table: "recordings" as const, id: fade.recording.id };
  const done = editor.session.run({
    type: "step.add",
    owner,
    chainId: newId(),
    step: { ...step, span: { from: fade.from, to: fade.to, edgeMs: 0 } },
    before: null
  });
  if (done) editor.selection.chooseOwner(owner);
}

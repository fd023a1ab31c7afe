// Hearing what is on the bench round and round, and going on to the next of the selected clips.
import { byPlace, programmeEnd } from "$lib/core/session/lookup";
import type { Editor } from "./editor.svelte";

interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Where on the timeline what is on the bench sounds; undefined when it does nowhere. */
function stretchOf({ selection, session }: Editor): Stretch | undefined {
  const { owner, clip } = selection.subject;
  const { range } = selection;
  const shown = [...session.shown.values("clips")];
  const own =
    clip ??
    (owner.table === "recordings" ? shown.find((c) => c.content.recordingId === owner.id) : undefined);
  if (own) {
    const whole = { from: own.start, to: own.start + own.length };
    const part = range && { from: Math.max(range.from, whole.from), to: Math.min(range.to, whole.to) };
    return part && part.to > part.from ? part : whole;
  }
  if (owner.table === "recordings") return undefined;
  if (range) return { from: range.from, to: range.to };
  if (owner.table !== "tracks") return { from: 0, to: programmeEnd(session.shown) };
  const clips = shown.filter((one) => one.track === owner.id);
  if (clips.length === 0) return undefined;
  const to = Math.max(...clips.map((one) => one.start + one.length));
  return { from: Math.min(...clips.map((one) => one.start)), to };
}

export function previewable(editor: Editor): boolean {
  const stretch = stretchOf(editor);
  return stretch !== undefined && stretch.to > stretch.from;
}

/** Plays what is on the bench round and round, with pre- and post-roll, or stops that. */
export function preview(editor: Editor): void {
  const { transport } = editor;
  if (transport.preview) transport.toggle();
  else begin(editor);
}

function begin(editor: Editor): void {
  const stretch = stretchOf(editor);
  if (!stretch) return;
  const { transport, monitoring, sampleRate } = editor;
  const from = Math.max(0, stretch.from - Math.round(monitoring.preRoll * sampleRate));
  transport.playRound(from, stretch.to + Math.round(monitoring.postRoll * sampleRate));
}

/** Brings the next, or the one before, of the selected clips to the bench; a preview goes on with it. */
export function nextClip(editor: Editor, by: 1 | -1): void {
  const { selection, session, transport } = editor;
  const clips = selection.clipIds.flatMap((id) => session.shown.get("clips", id) ?? []).sort(byPlace);
  const now = clips.findIndex((clip) => clip.id === selection.clip?.id);
  const next = clips[(now + by + clips.length) % clips.length];
  if (clips.length < 2 || !next) return;
  selection.bringFirst(next.id);
  if (transport.preview) begin(editor);
}

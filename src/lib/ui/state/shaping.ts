// A clip's edges and fades, pulled by some frames or put at the playhead.
import type { Command } from "$lib/core/session/commands";
import type { Clip } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";

export type ClipEdge = "left" | "right" | "fadeIn" | "fadeOut";

/** The command that an edge pulled by some frames asks for. `most`: frames of the clip's recording. */
export function shapeCommand(clip: Clip, edge: ClipEdge, by: number, most: number): Command {
  const { id: clipId, start, offset, length } = clip;
  switch (edge) {
    case "left": {
      const moved = Math.max(-Math.min(offset, start), Math.min(length - 1, by));
      return {
        type: "clip.trim",
        clipId,
        start: start + moved,
        offset: offset + moved,
        length: length - moved
      };
    }
    case "right":
      return {
        type: "clip.trim",
        clipId,
        start,
        offset,
        length: Math.max(1, Math.min(most - offset, length + by))
      };
    case "fadeIn":
      return faded(clip, "in", clip.fadeIn.length + by);
    case "fadeOut":
      return faded(clip, "out", clip.fadeOut.length - by);
  }
}

function faded(clip: Clip, edge: "in" | "out", wanted: number): Command {
  const [own, other] = edge === "in" ? [clip.fadeIn, clip.fadeOut] : [clip.fadeOut, clip.fadeIn];
  const length = Math.max(0, Math.min(clip.length - other.length, wanted));
  return { type: "clip.fade", clipIds: [clip.id], edge, fade: { length, shape: own.shape } };
}

/** Whether the playhead lies within the clip that is selected. */
export function playheadWithin({ selection, transport }: Editor): boolean {
  const { clip } = selection;
  return (
    clip !== undefined && transport.position > clip.start && transport.position < clip.start + clip.length
  );
}

/** Has the selected clip begin, or end, at the playhead. What is cut off stays in its recording. */
export function trimToPlayhead({ session, selection, transport }: Editor, edge: "left" | "right"): void {
  const { clip } = selection;
  if (!clip) return;
  const at = Math.round(transport.position);
  const most = session.document.get("recordings", clip.content.recordingId)?.frames ?? 0;
  session.run(shapeCommand(clip, edge, at - (edge === "left" ? clip.start : clip.start + clip.length), most));
}

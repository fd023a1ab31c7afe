// Pulling a clip's edges, and the grips of its fades.
import type { Command } from "$lib/core/session/commands";
import type { Clip } from "$lib/core/session/schema";
import type { Editor } from "../../../state/editor.svelte";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";
import type { Zone } from "./spot";

type Edge = Exclude<Zone, "body">;

/** The command that an edge pulled by some frames asks for. `most`: frames of the clip's recording. */
export function shapeCommand(clip: Clip, edge: Edge, by: number, most: number): Command {
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

export class ShapeClip extends DraftGesture {
  readonly #most: number;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clip: Clip,
    private readonly edge: Edge
  ) {
    super(editor, from);
    this.#most = editor.session.document.get("recordings", clip.content.recordingId)?.frames ?? 0;
  }

  protected commandOf(by: number): Command {
    return shapeCommand(this.clip, this.edge, by, this.#most);
  }
}

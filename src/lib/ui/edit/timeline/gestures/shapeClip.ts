// Pulling a clip's edges, and the grips of its fades.
import type { Command } from "$lib/core/session/commands";
import type { Clip } from "$lib/core/session/schema";
import type { Editor } from "../../../state/editor.svelte";
import { shapeCommand, type ClipEdge } from "../../../state/shaping";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

export class ShapeClip extends DraftGesture {
  readonly #most: number;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clip: Clip,
    private readonly edge: ClipEdge
  ) {
    super(editor, from);
    this.#most = editor.session.document.get("recordings", clip.content.recordingId)?.frames ?? 0;
  }

  protected commandOf(by: number): Command {
    return shapeCommand(this.clip, this.edge, by, this.#most);
  }
}

import type { Command } from "$lib/core/session/commands";
import type { Editor } from "../../../state/editor.svelte";
import { moveCommand, type Moving } from "../../../state/moving";
import type { LaneStack } from "../layout";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

/** Pulls clips along their tracks, and to others. */
export class MoveClips extends DraftGesture {
  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clips: Moving,
    private readonly lanes: LaneStack
  ) {
    super(editor, from);
  }

  protected commandOf(by: number, from: LanePoint, to: LanePoint): Command | null {
    return moveCommand(this.clips, by, this.lanes.at(to.y) - this.lanes.at(from.y));
  }
}

import type { Command } from "$lib/core/session/commands";
import { moveCommand, type Moving } from "../../../state/moving";
import type { Editor } from "../../../state/editor.svelte";
import type { Gesture, LanePoint } from "./gesture";
import type { LaneStack } from "../layout";

/** Pulls clips along their tracks, and to others. */
export class MoveClips implements Gesture {
  #command: Command | null = null;

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint,
    private readonly clips: Moving,
    private readonly lanes: LaneStack
  ) {}

  move(to: LanePoint): void {
    const { view, session } = this.editor;
    const by = Math.round((to.x - this.from.x) * view.framesPerPixel);
    this.#command = moveCommand(this.clips, by, this.lanes.at(to.y) - this.lanes.at(this.from.y));
    session.draft(this.#command);
  }

  end(): void {
    if (this.#command) this.editor.session.run(this.#command);
    else this.editor.session.draft(null);
  }

  cancel(): void {
    this.editor.session.draft(null);
  }
}

import type { Command } from "$lib/core/session/commands";
import type { Editor } from "../../../state/editor.svelte";
import type { Gesture, LanePoint } from "./gesture";

/** A gesture that asks for one command: shown while it goes on, made at its end. */
export abstract class DraftGesture implements Gesture {
  #command: Command | null = null;

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint
  ) {}

  /** What is asked for when the pointer has come to a point; by: frames of the timeline since the start. */
  protected abstract commandOf(by: number, from: LanePoint, to: LanePoint): Command | null;

  move(to: LanePoint): void {
    const { view, session } = this.editor;
    const by = Math.round((to.x - this.from.x) * view.framesPerPixel);
    this.#command = this.commandOf(by, this.from, to);
    session.draft(this.#command);
  }

  end(): void {
    if (this.#command) this.editor.session.run(this.#command);
    else this.cancel();
  }

  cancel(): void {
    this.editor.session.draft(null);
  }
}

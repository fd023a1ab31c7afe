import type { Command } from "$lib/core/session/commands";
import type { Editor } from "../../../state/editor.svelte";
import type { Gesture, LanePoint } from "./gesture";

/** A gesture that asks for one command: shown while it goes on, made at its end. */
export abstract class DraftGesture implements Gesture {
  #command: Command | null = null;

  constructor(
    protected readonly editor: Editor,
    protected readonly from: LanePoint
  ) {}

  /** What is asked for when the pointer has come to a point; by: frames of the timeline since the start. */
  protected abstract commandOf(by: number, to: LanePoint): Command | null;

  /** What it says of itself beside the pointer. */
  protected abstract noteOf(by: number, to: LanePoint): string;

  move(to: LanePoint): void {
    const { view, session, pull } = this.editor;
    const by = Math.round((to.x - this.from.x) * view.framesPerPixel);
    this.#command = this.commandOf(by, to);
    session.draft(this.#command);
    pull.note = { x: to.x, y: to.y, text: this.noteOf(by, to) };
  }

  end(): void {
    this.finish(this.#command);
  }

  /** Makes a command, the gesture's own or another, and shows nothing of the pull any more. */
  protected finish(command: Command | null): void {
    this.editor.pull.over();
    if (command) this.editor.session.run(command);
    else this.cancel();
  }

  cancel(): void {
    this.editor.pull.over();
    this.editor.session.draft(null);
  }
}

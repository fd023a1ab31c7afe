import type { Editor } from "../../../state/editor.svelte";
import { moveCommand, possibleShift, type Moving, type Shift } from "../../../state/moving";
import type { LaneStack } from "../layout";
import type { Gesture, LanePoint } from "./gesture";

/** Pulls clips along their tracks and to others. Until they are let go only the picture of them moves. */
export class MoveClips implements Gesture {
  #shift: Shift = { frames: 0, lanes: 0 };
  readonly #ids: ReadonlySet<string>;
  /** Frame of the timeline where the pointer took hold. */
  readonly #from: number;

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint,
    private readonly moving: Moving,
    private readonly lanes: LaneStack
  ) {
    this.#ids = new Set(moving.clips.map((clip) => clip.id));
    this.#from = editor.view.left + from.x * editor.view.framesPerPixel;
  }

  move(to: LanePoint): void {
    const { view, pull } = this.editor;
    this.#shift = possibleShift(this.moving, {
      frames: Math.round(view.left + to.x * view.framesPerPixel - this.#from),
      lanes: this.lanes.at(to.y) - this.lanes.at(this.from.y)
    });
    pull.now = { moving: this.moving, ids: this.#ids, shift: this.#shift };
  }

  end(): void {
    const command = moveCommand(this.moving, this.#shift);
    if (command) this.editor.session.run(command);
    this.cancel();
  }

  cancel(): void {
    this.editor.pull.now = null;
  }
}

import type { Command } from "$lib/core/session/commands";
import type { Clip } from "$lib/core/session/schema";
import type { Editor } from "../../../state/editor.svelte";
import { fadesCommand } from "../../../state/shaping";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

/** Pixels of the way from no bend to the most. */
const WAY = 60;

/** Pulls the curve of a fade up and down: its bend. All that are selected follow. */
export class BendFade extends DraftGesture {
  #bend = 0;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clip: Clip,
    private readonly edge: "in" | "out",
    private readonly others: readonly Clip[]
  ) {
    super(editor, from);
  }

  protected commandOf(_by: number, to: LanePoint): Command | null {
    const own = this.edge === "in" ? this.clip.fadeIn : this.clip.fadeOut;
    const raised = ((this.from.y - to.y) / WAY) * 10;
    this.#bend = Math.round(Math.max(-10, Math.min(10, (own.shape.bend ?? 0) + raised)) * 10) / 10;
    const all = [this.clip, ...this.others.filter((other) => other.id !== this.clip.id)];
    return fadesCommand(all, this.edge, (clip) => {
      const fade = this.edge === "in" ? clip.fadeIn : clip.fadeOut;
      return { ...fade, shape: { ...fade.shape, bend: this.#bend } };
    });
  }

  protected noteOf(): string {
    return `bend ${this.#bend > 0 ? "+" : ""}${this.#bend.toFixed(1)}`;
  }
}

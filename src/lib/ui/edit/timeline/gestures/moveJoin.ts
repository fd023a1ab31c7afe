import type { Command } from "$lib/core/session/commands";
import type { Join } from "$lib/core/session/joins";
import { lengthText } from "$lib/core/units/timeFormat";
import type { Editor } from "../../../state/editor.svelte";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

/** Pulls a crossfade as a whole: both clips stay where they are, and meet elsewhere. */
export class MoveJoin extends DraftGesture {
  #by = 0;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly join: Join
  ) {
    super(editor, from);
  }

  protected commandOf(by: number): Command | null {
    const { left, right, overlap } = this.join;
    const frames = this.editor.session.document.get("recordings", left.content.recordingId)?.frames ?? 0;
    const most = Math.min(
      frames - left.offset - left.length,
      right.length - right.fadeOut.length - overlap - 1
    );
    const least = -Math.min(right.offset, left.length - left.fadeIn.length - overlap - 1);
    this.#by = Math.max(least, Math.min(most, by));
    return this.#by === 0 ? null : { type: "crossfade.move", left: left.id, right: right.id, by: this.#by };
  }

  protected noteOf(): string {
    const { sampleRate, preferences } = this.editor;
    const way = lengthText(Math.abs(this.#by), sampleRate, preferences.time);
    return `crossfade ${this.#by < 0 ? "-" : "+"}${way}`;
  }
}

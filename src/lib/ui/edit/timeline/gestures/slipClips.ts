import type { Command } from "$lib/core/session/commands";
import type { Clip } from "$lib/core/session/schema";
import { lengthText } from "$lib/core/units/timeFormat";
import { possibleSlip } from "../../../state/arranging";
import type { Editor } from "../../../state/editor.svelte";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

/** Pulls the sound inside the windows of clips: what is pulled to the right comes later. */
export class SlipClips extends DraftGesture {
  #by = 0;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clips: readonly Clip[]
  ) {
    super(editor, from);
  }

  protected commandOf(by: number): Command | null {
    this.#by = possibleSlip(this.editor, this.clips, -by);
    return this.#by === 0
      ? null
      : { type: "clip.slip", clipIds: this.clips.map((clip) => clip.id), by: this.#by };
  }

  protected noteOf(): string {
    const { sampleRate, preferences } = this.editor;
    return `sound ${this.#by > 0 ? "earlier" : "later"} by ${lengthText(Math.abs(this.#by), sampleRate, preferences.time)}`;
  }
}

import type { Track } from "$lib/core/session/schema";
import type { Editor } from "../../../state/editor.svelte";
import type { Gesture, LanePoint } from "./gesture";
import type { LaneStack } from "../layout";

/** A rectangle on the lanes, in pixels. */
export interface Rectangle {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Selects the clips that a rectangle touches, pulled open over the lanes; with Shift or Ctrl besides those that are selected. */
export class Marquee implements Gesture {
  readonly #before: readonly string[];

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint,
    private readonly tracks: readonly Track[],
    private readonly lanes: LaneStack,
    private readonly show: (rectangle: Rectangle | null) => void
  ) {
    this.#before = editor.selection.clipIds;
  }

  move(to: LanePoint): void {
    const { view, clips, selection } = this.editor;
    const { from } = this;
    const [left, right] = [Math.min(from.x, to.x), Math.max(from.x, to.x)];
    const [top, bottom] = [Math.max(0, Math.min(from.y, to.y)), Math.max(from.y, to.y)];
    this.show({ left, top, width: right - left, height: bottom - top });
    const first = view.left + left * view.framesPerPixel;
    const last = view.left + right * view.framesPerPixel;
    const touched = this.tracks
      .slice(this.lanes.at(top), this.lanes.at(bottom) + 1)
      .flatMap((track) => clips.overlapping(track.id, first, last).map((clip) => clip.id));
    const kept = from.shift || from.ctrl ? this.#before : [];
    selection.chooseAll([...new Set([...kept, ...touched])]);
  }

  end(): void {
    this.show(null);
  }

  cancel(): void {
    this.show(null);
    this.editor.selection.chooseAll(this.#before);
  }
}

import type { Track } from "$lib/core/session/schema";
import { lengthText } from "$lib/core/units/timeFormat";
import type { Editor } from "../../../state/editor.svelte";
import { snapEdges } from "../../../state/snapping";
import type { LaneStack } from "../layout";
import type { Gesture, LanePoint } from "./gesture";

/** Selects a stretch of time on the lanes that are pulled over, and the clips that lie in it. */
export class ChooseTime implements Gesture {
  readonly #before: Editor["selection"]["selected"];
  readonly #from: number;

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint,
    private readonly tracks: readonly Track[],
    private readonly lanes: LaneStack
  ) {
    this.#before = editor.selection.selected;
    const at = editor.view.frameAt(from.x);
    this.#from = at + (snapEdges(editor, { edges: [at], free: from.alt })?.by ?? 0);
  }

  move(to: LanePoint): void {
    const { editor } = this;
    const { view, clips, selection, pull, sampleRate, preferences } = editor;
    const at = view.frameAt(to.x);
    const end = at + (snapEdges(editor, { edges: [at], free: to.alt })?.by ?? 0);
    const [from, until] = [Math.min(this.#from, end), Math.max(this.#from, end)];
    const [top, bottom] = [this.from.y, to.y].map((y) => this.lanes.at(y)).sort((a, b) => a - b);
    const lanes = this.tracks.slice(top, (bottom ?? 0) + 1).map((track) => track.id);
    if (until <= from || lanes.length === 0) return;
    const inside = lanes.flatMap((id) => clips.overlapping(id, from, until).map((clip) => clip.id));
    selection.chooseRange({ from, to: until, tracks: lanes }, inside);
    pull.note = { x: to.x, y: to.y, text: lengthText(until - from, sampleRate, preferences.time) };
  }

  end(): void {
    this.editor.pull.over();
  }

  cancel(): void {
    this.editor.pull.over();
    this.editor.selection.selected = this.#before;
  }
}

// Pulling a clip's edges, and the grips of its fades; all that are selected follow.
import type { Command } from "$lib/core/session/commands";
import type { DropRule } from "$lib/core/session/drop";
import type { Clip } from "$lib/core/session/schema";
import { placeText, lengthText } from "$lib/core/units/timeFormat";
import { newId } from "../../../state/editing";
import type { Editor } from "../../../state/editor.svelte";
import { shapeCommand, shapeGround, type ClipEdge } from "../../../state/shaping";
import { later } from "../../../state/actions/action";
import { cutPlace, snapEdges } from "../../../state/snapping";
import { GRIP } from "../layout";
import { ruleOf } from "./dropRule";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

export class ShapeClip extends DraftGesture {
  readonly #seed = newId();
  #by = 0;
  #rule: DropRule;
  /** Frames from the end of a fade to the pointer, when its grip stood at the edge of the view instead. */
  readonly #away: number;

  constructor(
    editor: Editor,
    from: LanePoint,
    private readonly clip: Clip,
    private readonly edge: ClipEdge,
    private readonly others: readonly Clip[]
  ) {
    super(editor, from);
    this.#rule = editor.preferences.rule;
    const away = editor.view.left + from.x * editor.view.framesPerPixel - this.#place;
    const fade = edge === "fadeIn" || edge === "fadeOut";
    this.#away = fade && Math.abs(away) > 2 * GRIP * editor.view.framesPerPixel ? Math.round(away) : 0;
  }

  /** Where the edge, or the end of the fade, lies. */
  get #place(): number {
    const { start, length, fadeIn, fadeOut } = this.clip;
    switch (this.edge) {
      case "left":
        return start;
      case "right":
        return start + length;
      case "fadeIn":
        return start + fadeIn.length;
      case "fadeOut":
        return start + length - fadeOut.length;
    }
  }

  protected commandOf(pulled: number, to: LanePoint): Command | null {
    const by = pulled + this.#away;
    const except = new Set([this.clip.id]);
    const snapped = snapEdges(this.editor, { edges: [this.#place + by], except, free: to.alt });
    this.#by = by + (snapped?.by ?? 0);
    this.#rule = ruleOf(this.editor, to);
    const ground = shapeGround(this.editor, this.#seed, this.#rule);
    return shapeCommand(this.clip, this.edge, this.#by, ground, this.others);
  }

  override end(): void {
    if (this.edge !== "left" && this.edge !== "right") {
      super.end();
      return;
    }
    const { editor, clip, edge } = this;
    const at = this.#place + this.#by;
    later(
      cutPlace(editor, clip, at).then((place) => {
        const ground = shapeGround(editor, this.#seed, this.#rule);
        this.finish(shapeCommand(clip, edge, place - this.#place, ground, this.others));
      })
    );
  }

  protected noteOf(): string {
    const { sampleRate, preferences, session } = this.editor;
    const shown = session.shown.get("clips", this.clip.id) ?? this.clip;
    const length = (frames: number) => lengthText(frames, sampleRate, preferences.time);
    if (this.edge === "fadeIn") return `fade in ${length(shown.fadeIn.length)}`;
    if (this.edge === "fadeOut") return `fade out ${length(shown.fadeOut.length)}`;
    const at = this.edge === "left" ? shown.start : shown.start + shown.length;
    return `${this.edge === "left" ? "begins" : "ends"} at ${placeText(at, sampleRate, preferences.time)}, ${length(shown.length)} long`;
  }
}

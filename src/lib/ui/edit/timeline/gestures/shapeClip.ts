// Pulling a clip's edges, and the grips of its fades; all that are selected follow.
import type { Command } from "$lib/core/session/commands";
import type { DropRule } from "$lib/core/session/drop";
import type { Clip } from "$lib/core/session/schema";
import { placeText, lengthText } from "$lib/core/units/timeFormat";
import { newId } from "../../../state/editing";
import type { Editor } from "../../../state/editor.svelte";
import { shapeCommand, shapeGround, type ClipEdge } from "../../../state/shaping";
import { later } from "../../../state/actions/action";
import { crossingNear, cutPlace, cutsAtZero, snapEdges } from "../../../state/snapping";
import { GRIP } from "../layout";
import { ruleOf } from "./dropRule";
import { DraftGesture } from "./draftGesture";
import type { LanePoint } from "./gesture";

const ZERO = "a zero crossing";

export class ShapeClip extends DraftGesture {
  readonly #seed = newId();
  #by = 0;
  #rule: DropRule;
  /** Frames from the end of a fade to the pointer, when its grip stood at the edge of the view instead. */
  readonly #away: number;
  /** Whether it lies where it is to lie: snapping is suspended, or it has snapped to more than the grid. */
  #exact = false;
  /** Where the edge would be cut, as far as that has been asked for. */
  #cut: { readonly asked: number; readonly place: number | null } = { asked: NaN, place: null };
  #asking = false;
  #over = false;

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
    this.#exact = to.alt || (snapped !== null && snapped.to.kind !== "grid");
    if (this.#cuts) this.#showCut();
    this.#rule = ruleOf(this.editor, to);
    const ground = shapeGround(this.editor, this.#seed, this.#rule);
    return shapeCommand(this.clip, this.edge, this.#by, ground, this.others);
  }

  /** Whether a zero crossing is looked for where the edge is let go. */
  get #cuts(): boolean {
    return !this.#exact && (this.edge === "left" || this.edge === "right") && cutsAtZero(this.editor);
  }

  /** Shows where the edge will be cut; what has been asked for last is answered last. */
  #showCut(): void {
    const { editor, clip } = this;
    const at = this.#place + this.#by;
    const { asked, place } = this.#cut;
    if (asked === at) editor.pull.snapped = place === null ? null : { at: place, kind: "zero", what: ZERO };
    else if (!this.#asking) {
      this.#asking = true;
      later(
        // What fails is told once, and not asked for again in this pull.
        crossingNear(editor, clip, at).then((place) => {
          this.#cut = { asked: at, place };
          this.#asking = false;
          if (!this.#over && this.#cuts) this.#showCut();
        })
      );
    }
  }

  override cancel(): void {
    this.#over = true;
    super.cancel();
  }

  override end(): void {
    this.#over = true;
    if (!this.#cuts) {
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

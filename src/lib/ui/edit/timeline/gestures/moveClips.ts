import { drop, type Drop, type DropRule } from "$lib/core/session/drop";
import type { Clip } from "$lib/core/session/schema";
import { lengthText, placeText } from "$lib/core/units/timeFormat";
import { copiesOf, dropCopies, type Copy } from "../../../state/arranging";
import { newId } from "../../../state/editing";
import type { Editor } from "../../../state/editor.svelte";
import { moveCommand, possibleShift, shiftedClips, type Moving, type Shift } from "../../../state/moving";
import { NOTHING } from "../../../state/pull.svelte";
import { snapEdges } from "../../../state/snapping";
import type { LaneStack } from "../layout";
import { later } from "../../../state/actions/action";
import { measuredOverlaps } from "../../../state/crossfading";
import { RULE_NAMES } from "../../../state/preferences.svelte";
import { ruleOf } from "./dropRule";
import type { Gesture, LanePoint } from "./gesture";

/**
 * Pulls clips along their tracks and to others, or copies of them. Until they are let go only the picture of them moves, and of those that make
 * room.
 */
export class MoveClips implements Gesture {
  #shift: Shift = { frames: 0, lanes: 0 };
  #rule: DropRule;
  #effect: { readonly key: string; readonly drop: Drop } | undefined;
  /** Copies of the clips, while such are pulled. */
  #copies: readonly Copy[] | undefined;
  readonly #ids: ReadonlySet<string>;
  /** Frame of the timeline where the pointer took hold. */
  readonly #from: number;

  constructor(
    private readonly editor: Editor,
    private readonly from: LanePoint,
    private readonly moving: Moving,
    /** The one that was taken hold of. */
    private readonly held: Clip,
    private readonly lanes: LaneStack
  ) {
    this.#ids = new Set(moving.clips.map((clip) => clip.id));
    this.#from = editor.view.left + from.x * editor.view.framesPerPixel;
    this.#rule = editor.preferences.rule;
  }

  move(to: LanePoint): void {
    const { view, pull } = this.editor;
    const wanted = Math.round(view.left + to.x * view.framesPerPixel - this.#from);
    const { start, length } = this.held;
    const edges = [start + wanted, start + length + wanted];
    this.#copies = to.copy ? (this.#copies ?? copiesOf(this.editor, this.moving.clips)) : undefined;
    // Of copies the originals stay where they are.
    const gone = to.copy ? NOTHING : this.#ids;
    const snapped = snapEdges(this.editor, { edges, except: gone, free: to.alt });
    this.#shift = possibleShift(this.moving, {
      frames: wanted + (snapped?.by ?? 0),
      lanes: this.lanes.at(to.y) - this.lanes.at(this.from.y)
    });
    this.#rule = ruleOf(this.editor, to);
    const effect = this.#dropped();
    // Where the rule keeps clips clear they come to lie elsewhere than the pointer is.
    const [first] = this.#pulled;
    const lies = effect.placed.find((clip) => clip.id === first?.id);
    const frames = first && lies ? lies.start - first.start : this.#shift.frames;
    pull.now = { moving: this.moving, ids: gone, shift: { ...this.#shift, frames }, effect };
    pull.note = { x: to.x, y: to.y, text: this.#note(frames) };
  }

  /** The clips, or their copies, where they were taken hold of. */
  get #pulled(): readonly Clip[] {
    return this.#copies?.map(({ clip }) => clip) ?? this.moving.clips;
  }

  get #wanted(): Clip[] {
    return shiftedClips({ ...this.moving, clips: this.#pulled }, this.#shift);
  }

  /** What the drop would do here; the same object as long as it is the same. */
  #dropped(): Drop {
    const copy = this.#copies !== undefined;
    const key = `${this.#rule} ${this.#shift.frames} ${this.#shift.lanes} ${copy}`;
    if (this.#effect?.key !== key) {
      const before = copy ? [] : this.moving.clips;
      this.#effect = { key, drop: drop(this.editor.clips, before, this.#wanted, this.#rule) };
    }
    return this.#effect.drop;
  }

  #note(frames: number): string {
    const { sampleRate, preferences, session } = this.editor;
    const lane = this.moving.tracks.indexOf(this.held.track) + this.#shift.lanes;
    const track = session.shown.get("tracks", this.moving.tracks[lane] ?? "");
    const way = `${frames < 0 ? "-" : "+"}${lengthText(Math.abs(frames), sampleRate, preferences.time)}`;
    const to = this.#shift.lanes === 0 ? "" : `, on ${track?.name ?? ""}`;
    const what = this.#copies ? " · copy" : "";
    return `${placeText(this.held.start + frames, sampleRate, preferences.time)} (${way})${to}${what} · ${RULE_NAMES[this.#rule]}`;
  }

  end(): void {
    const { editor } = this;
    // What is crossfaded is listened to first; meanwhile the picture stays.
    later(
      measuredOverlaps(editor, this.#rule === "crossfade" ? this.#effect?.drop : undefined).then(
        (correlations) => {
          const [copies, wanted] = [this.#copies, this.#wanted];
          const command = moveCommand(this.moving, this.#shift, this.#rule, newId(), correlations);
          this.cancel();
          if (command && copies) dropCopies(editor, copies, wanted, this.#rule, correlations);
          else if (command) editor.session.run(command);
        }
      )
    );
  }

  cancel(): void {
    this.editor.pull.over();
  }
}

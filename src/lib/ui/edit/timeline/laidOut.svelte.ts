// Where the lanes' elements are laid out. What is seen is painted; elements are for the keyboard and for reading aloud, and the pointer finds
// clips by the index. So they are left alone while the view scrolls and zooms, and laid out anew when it rests: moving them with every frame
// would have the browser put all its layers together anew each time.
import type { TimelineView } from "../../state/view.svelte";

/** The view rests when it did not change for so long. */
const REST_MS = 120;
/** Pixels beyond the view to which elements reach. */
const BEYOND = 20;

export class LaidOut {
  /** Elements are placed in pixels from the frame `left`; clips that touch [from, to) are there. */
  now = $state.raw({ left: 0, framesPerPixel: 1, width: 0, from: 0, to: 0 });
  /** The zoom is changing. */
  moving = $state(false);
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly view: TimelineView) {}

  /** Call in an effect: follows the view. */
  follow(): void {
    void [this.view.left, this.view.width];
    const first = this.now.to === 0;
    if (this.view.framesPerPixel !== this.now.framesPerPixel && !first) this.moving = true;
    clearTimeout(this.#timer);
    if (first) this.#layOut();
    else this.#timer = setTimeout(() => this.#layOut(), REST_MS);
  }

  /** Where a stretch of the timeline lies, in pixels from the view's left edge; of one that is partly in sight only that part, and a little more. */
  box(start: number, length: number): { readonly left: number; readonly width: number } {
    const left = (start - this.now.left) / this.now.framesPerPixel;
    const right = left + this.width(length);
    if (right <= 0 || left >= this.now.width) return { left, width: right - left };
    const from = Math.max(left, -BEYOND);
    return { left: from, width: Math.min(right, this.now.width + BEYOND) - from };
  }

  /** Width of so many frames in pixels. */
  width(frames: number): number {
    return frames / this.now.framesPerPixel;
  }

  #layOut(): void {
    const { left, framesPerPixel, width, frames } = this.view;
    this.now = { left, framesPerPixel, width, from: Math.max(0, left - frames / 2), to: left + frames * 1.5 };
    this.moving = false;
  }

  close(): void {
    clearTimeout(this.#timer);
  }
}

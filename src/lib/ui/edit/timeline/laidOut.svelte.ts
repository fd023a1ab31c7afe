// Where the lanes' elements are laid out. While the view scrolls and zooms, they are moved and stretched as a whole by one transform; they are
// laid out anew when it has moved half a screen on, or when the zoom rests.
import type { TimelineView } from "../../state/view.svelte";

/** The zoom rests when it did not change for so long. */
const REST_MS = 120;

export class LaidOut {
  /** Elements are placed in pixels from the frame `left`; clips that touch [from, to) are there. */
  now = $state.raw({ left: 0, framesPerPixel: 1, from: 0, to: 0 });
  /** The zoom is changing. */
  moving = $state(false);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #width = 0;

  constructor(private readonly view: TimelineView) {}

  /** Call in an effect: follows the view. */
  follow(): void {
    const { left, framesPerPixel, frames, width } = this.view;
    const { now } = this;
    if (framesPerPixel !== now.framesPerPixel) {
      const first = now.to === 0;
      if (!first) this.moving = true;
      clearTimeout(this.#timer);
      this.#timer = setTimeout(() => this.#layOut(), first ? 0 : REST_MS);
      if (first) this.#layOut();
      return;
    }
    const outside = left < now.from && now.from > 0;
    if (outside || left + frames > now.to || width !== this.#width) this.#layOut();
  }

  #layOut(): void {
    clearTimeout(this.#timer);
    const { left, framesPerPixel, frames, width } = this.view;
    this.#width = width;
    this.now = {
      left,
      framesPerPixel,
      from: Math.max(0, left - frames / 2),
      to: left + frames * 1.5
    };
    this.moving = false;
  }

  /** The transform that puts the elements where the view shows them. */
  get transform(): string {
    const { left, framesPerPixel } = this.view;
    const { now } = this;
    return `translateX(${(now.left - left) / framesPerPixel}px) scaleX(${now.framesPerPixel / framesPerPixel})`;
  }

  close(): void {
    clearTimeout(this.#timer);
  }
}

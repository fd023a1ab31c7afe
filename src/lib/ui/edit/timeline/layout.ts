// Sizes of the timeline in pixels, for drawing and for finding what lies under the pointer.

/** Width of the heads of tracks. */
export const HEADS = 164;
/** A clip's card lies this far below its lane's upper edge, and is this much lower than the lane. */
export const CARD_TOP = 2;
export const CARD_LESS = 4;
/** Width of a clip's edges, by which it is trimmed; they begin below its name. */
export const EDGE = 6;
/** Height of a clip's name. In cards that are lower than the least the name lies on the waveform. */
export const NAME = 15;
const LEAST_WITH_NAME_ABOVE = 44;
/** Size of a fade's grip. Clips that are narrower than the least have none. */
export const GRIP = 10;
export const LEAST_WITH_GRIPS = 40;
/** Where a grip stands that would be out of sight: at the edge of the view, so that a fade can be pulled to there at any zoom. */
export function gripInSight(x: number, width: number, size = GRIP): number {
  return Math.min(Math.max(x, 0), width - size);
}

/** Height of the strip along a treated clip's lower edge. */
export const HEM = 10;
/** Clips that are narrower have no element of their own: the list of clips has them. */
export const LEAST_WITH_ELEMENT = 24;
/** Clips from this width on have elements for their handles as well: four targets of 24 px stand side by side (WCAG 2.2, 2.5.8). */
export const LEAST_WITH_HANDLES = 96;
/** Lower heads show their name, mute and solo alone. */
export const LEAST_OF_TWO_LINES = 50;

/** Where the waveform lies in a card, from the card's top. */
export function waveBox(cardHeight: number, hemmed: boolean): { top: number; height: number } {
  const top = cardHeight < LEAST_WITH_NAME_ABOVE ? 1 : NAME;
  return { top, height: cardHeight - top - (hemmed ? HEM : 1) };
}

/** Where lanes lie, from the top. */
export class LaneStack {
  readonly #tops: readonly number[];

  /** @param heights of the lanes, from the top */
  constructor(private readonly heights: readonly number[]) {
    let top = 0;
    this.#tops = heights.map((height) => (top += height) - height);
  }

  /** Index of the lane at a height; above the first it is the first, below the last one more than there are. */
  at(y: number): number {
    const below = this.#tops.findIndex((top, i) => y < top + (this.heights[i] ?? 0));
    return below < 0 ? this.heights.length : below;
  }

  /** Upper edge of a lane. */
  top(lane: number): number {
    return this.#tops[lane] ?? 0;
  }

  height(lane: number): number {
    return this.heights[lane] ?? 0;
  }

  /** All lanes together. */
  get whole(): number {
    const last = this.heights.length - 1;
    return this.top(last) + this.height(last);
  }
}

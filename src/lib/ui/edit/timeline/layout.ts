// Sizes of the timeline in pixels, for drawing and for finding what lies under the pointer.

/** Height of a lane. */
export const LANE = 56;
/** A clip's card lies this far below its lane's upper edge, and is this much lower than the lane. */
export const CARD_TOP = 2;
export const CARD_LESS = 4;
/** Width of a clip's edges, by which it is trimmed; they begin below its name. */
export const EDGE = 6;
export const NAME = 15;
/** Size of a fade's grip. Clips that are narrower than the least have none. */
export const GRIP = 10;
export const LEAST_WITH_GRIPS = 40;
/** Height of the strip along a clip's lower edge. */
export const HEM = 12;

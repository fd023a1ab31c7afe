// The signs on a clip's hem, as strokes in a box of six pixels: for canvases and for the legend.
import type { TreatmentKind } from "$lib/core/session/treatmentKinds";

export type Mark = TreatmentKind | "linked" | "recording";

export const MARK_PATHS: Record<Mark, string> = {
  level: "M0.5 6V4M3 6V2M5.5 6V0",
  tone: "M0 3C1.5 -1 1.5 -1 3 3S4.5 7 6 3",
  space: "M3 0.5A2.5 2.5 0 1 1 3 5.5A2.5 2.5 0 1 1 3 0.5",
  repair: "M3 0V6M0 3H6",
  time: "M0 5.5L3 0L6 5.5Z",
  linked: "M0 0H4V4H0ZM2 2H6V6H2Z",
  recording: "M0 0.5H6M0 3H6M0 5.5H6"
};

/** Pixels that a sign takes with the gap behind it. */
export const MARK_WIDTH = 9;

const made = new Map<Mark, Path2D>();

/** The sign as a canvas takes it. */
export function markPath(mark: Mark): Path2D {
  let path = made.get(mark);
  if (!path) made.set(mark, (path = new Path2D(MARK_PATHS[mark])));
  return path;
}

import type { Clip, Track } from "$lib/core/session/schema";
import type { ClipIndex } from "../../../state/clipIndex.svelte";
import type { TimelineView } from "../../../state/view.svelte";
import { CARD_TOP, EDGE, GRIP, LEAST_WITH_GRIPS, NAME, type LaneStack } from "../layout";
import type { LanePoint } from "./gesture";

/** A part of a clip that does something of its own when it is dragged. */
export type Zone = "body" | "left" | "right" | "fadeIn" | "fadeOut";

/** What lies under the pointer. */
export interface Spot {
  /** Index of the lane, from the top; beyond the last below all lanes. */
  readonly lane: number;
  readonly clip?: Clip;
  readonly zone?: Zone;
}

function zoneOf(clip: Clip, view: TimelineView, x: number, y: number): Zone {
  const left = view.x(clip.start);
  const right = view.x(clip.start + clip.length);
  if (right - left > LEAST_WITH_GRIPS && y < GRIP + CARD_TOP) {
    const fadeIn = Math.max(left, view.x(clip.start + clip.fadeIn.length) - 1);
    if (x >= fadeIn && x < fadeIn + GRIP) return "fadeIn";
    const fadeOut = Math.min(right, view.x(clip.start + clip.length - clip.fadeOut.length)) - GRIP;
    if (x >= fadeOut && x < fadeOut + GRIP) return "fadeOut";
  }
  if (y < NAME || right - left < 3 * EDGE) return "body";
  if (x < left + EDGE) return "left";
  return x >= right - EDGE ? "right" : "body";
}

/** What lies at a point of the lanes: of clips that overlap the one that begins last, which lies on top. */
export function spotAt(
  { x, y }: Pick<LanePoint, "x" | "y">,
  tracks: readonly Track[],
  lanes: LaneStack,
  index: ClipIndex,
  view: TimelineView
): Spot {
  const lane = lanes.at(y);
  const track = tracks[lane];
  if (!track) return { lane };
  // A clip is drawn at least two pixels wide.
  const from = view.left + (x - 2) * view.framesPerPixel;
  const found = index.overlapping(track.id, from, view.left + (x + 1) * view.framesPerPixel);
  const clip = found[found.length - 1];
  return clip ? { lane, clip, zone: zoneOf(clip, view, x, y - lanes.top(lane)) } : { lane };
}

import { fadeGainAt } from "$lib/core/audio/fades";
import type { Clip, Track } from "$lib/core/session/schema";
import type { ClipIndex } from "../../../state/clipIndex.svelte";
import type { TimelineView } from "../../../state/view.svelte";
import { CARD_LESS, CARD_TOP, EDGE, GRIP, LEAST_WITH_GRIPS, NAME, waveBox, type LaneStack } from "../layout";
import type { LanePoint } from "./gesture";

/** A part of a clip that does something of its own when it is dragged. */
export type Zone = "body" | "left" | "right" | "fadeIn" | "fadeOut" | "curveIn" | "curveOut";

/** What lies under the pointer. */
export interface Spot {
  /** Index of the lane, from the top; beyond the last below all lanes. */
  readonly lane: number;
  readonly clip?: Clip;
  readonly zone?: Zone;
}

/** How near a fade's curve must be to be taken hold of. */
const CURVE_REACH = 5;
/** Fades that are narrower have no curve to take hold of. */
const LEAST_CURVE = 16;

/** The fade whose curve lies under a point of a clip; its height is that of the wave. */
function curveAt(clip: Clip, view: TimelineView, x: number, y: number, lane: number): Zone | undefined {
  const box = waveBox(lane - CARD_LESS, clip.chain !== null);
  const frame = view.left + x * view.framesPerPixel - clip.start;
  const gain = fadeGainAt(clip, Math.max(0, Math.min(clip.length - 1, frame)));
  const curve = CARD_TOP + box.top + (1 - gain) * (box.height - 2) + 1;
  if (Math.abs(y - curve) > CURVE_REACH) return undefined;
  const wide = (frames: number) => frames / view.framesPerPixel >= LEAST_CURVE;
  if (frame < clip.fadeIn.length && wide(clip.fadeIn.length)) return "curveIn";
  return frame > clip.length - clip.fadeOut.length && wide(clip.fadeOut.length) ? "curveOut" : undefined;
}

function zoneOf(clip: Clip, view: TimelineView, x: number, y: number, lane: number): Zone {
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
  if (x >= right - EDGE) return "right";
  return curveAt(clip, view, x, y, lane) ?? "body";
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
  return clip
    ? { lane, clip, zone: zoneOf(clip, view, x, y - lanes.top(lane), lanes.height(lane)) }
    : { lane };
}

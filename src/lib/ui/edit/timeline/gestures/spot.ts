import { fadeGainAt } from "$lib/core/audio/fades";
import { isCrossfade, joinOf, type Join } from "$lib/core/session/joins";
import type { Clip, Track } from "$lib/core/session/schema";
import type { ClipIndex } from "../../../state/clipIndex.svelte";
import type { TimelineView } from "../../../state/view.svelte";
import {
  CARD_LESS,
  CARD_TOP,
  EDGE,
  GRIP,
  gripInSight,
  LEAST_WITH_GRIPS,
  NAME,
  waveBox,
  type LaneStack
} from "../layout";
import type { LanePoint } from "./gesture";

/** A part of a clip that does something of its own when it is dragged. */
export type Zone = "body" | "left" | "right" | "fadeIn" | "fadeOut" | "curveIn" | "curveOut" | "cross";

/** What lies under the pointer. */
export interface Spot {
  /** Index of the lane, from the top; beyond the last below all lanes. */
  readonly lane: number;
  readonly clip?: Clip;
  readonly zone?: Zone;
  /** The crossfade, where it is one. */
  readonly join?: Join;
}

/** Share of a lane, from below, in which a crossfade is taken hold of as a whole; and its least width. */
const CROSS_SHARE = 0.3;
const LEAST_CROSS = 10;

/** The crossfade that lies under a point, low in its lane. */
function crossAt(
  found: readonly Clip[],
  view: TimelineView,
  x: number,
  y: number,
  height: number
): Join | undefined {
  if (y < height * (1 - CROSS_SHARE)) return undefined;
  const frame = view.left + x * view.framesPerPixel;
  for (const right of found)
    for (const left of found) {
      const join = joinOf(left, right);
      if (!join || join.left !== left || !isCrossfade(join)) continue;
      const [from, to] = [join.right.start, join.right.start + join.overlap];
      const inside = frame > from + EDGE * view.framesPerPixel && frame < to - EDGE * view.framesPerPixel;
      if (inside && join.overlap / view.framesPerPixel >= LEAST_CROSS + 2 * EDGE) return join;
    }
  return undefined;
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
    const fadeIn = gripInSight(Math.max(left, view.x(clip.start + clip.fadeIn.length) - 1), view.width);
    if (x >= fadeIn && x < fadeIn + GRIP) return "fadeIn";
    const end = Math.min(right, view.x(clip.start + clip.length - clip.fadeOut.length));
    const fadeOut = gripInSight(end - GRIP, view.width);
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
  // A clip is drawn at least two pixels wide; the last of them lies on top.
  const from = view.left + (x - 2) * view.framesPerPixel;
  const found = index.overlapping(track.id, from, view.left + (x + 1) * view.framesPerPixel);
  const clip = found[found.length - 1];
  if (!clip) return { lane };
  const within = y - lanes.top(lane);
  const join = found.length > 1 ? crossAt(found, view, x, within, lanes.height(lane)) : undefined;
  if (join) return { lane, clip, zone: "cross", join };
  return { lane, clip, zone: zoneOf(clip, view, x, within, lanes.height(lane)) };
}

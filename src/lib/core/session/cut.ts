// Cutting a clip into pieces that sound together as it did.
//
//   ▐██████████████▌   →   ▐█████XX▌
//          ↑                   ▐XX█████▌      XX: the blend, both fades of one sound add up to it
import { crossShape, windowed, withFade } from "./clipWindow";
import { endOf } from "./lanes";
import type { Clip } from "./schema";

/**
 * The pieces of a clip between places of the timeline, from the left; all have its id yet. Places outside of it, or at its ends, count for nothing.
 * @param blend frames in which neighbours overlap, faded into each other; shorter where a piece is
 */
export function cutPieces(clip: Clip, places: readonly number[], blend: number): Clip[] {
  const inside = [...new Set(places)]
    .filter((at) => at > clip.start && at < endOf(clip))
    .sort((a, b) => a - b);
  const edges = [clip.start, ...inside, endOf(clip)];
  const shortest = Math.min(...edges.slice(1).map((edge, i) => edge - (edges[i] ?? 0)));
  const half = Math.min(Math.floor(blend / 2), shortest >> 1);
  return edges.slice(1).map((edge, i) => {
    const last = i === inside.length;
    const from = (edges[i] ?? clip.start) - (i > 0 ? half : 0);
    let piece = windowed(clip, from, edge + (last ? 0 : half));
    if (half === 0) return piece;
    if (i > 0) piece = withFade(piece, "in", 2 * half, crossShape(1));
    return last ? piece : withFade(piece, "out", 2 * half, crossShape(1));
  });
}

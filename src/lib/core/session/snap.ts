// What a dragged edge snaps to.
import { endOf, type Lanes } from "./lanes";
import type { Section } from "./schema";

export const SNAP_KINDS = ["grid", "clips", "sections", "playhead", "zero"] as const;
export type SnapKind = (typeof SNAP_KINDS)[number];

/** A place that edges snap to. */
export interface SnapPoint {
  readonly at: number;
  readonly kind: SnapKind;
  /** What it is, in words. */
  readonly what: string;
}

export interface SnapGround {
  readonly kinds: ReadonlySet<SnapKind>;
  readonly lanes: Lanes;
  readonly tracks: readonly string[];
  /** Clips that are dragged: their own edges count for nothing. */
  readonly except: ReadonlySet<string>;
  readonly sections: readonly Section[];
  readonly playhead: number;
  /** Frames between two lines of the grid; they need not be whole. */
  readonly grid: number;
}

/** All places within reach of a frame. Zero crossings are asked for elsewhere: they need the sound. */
export function snapPoints(ground: SnapGround, at: number, reach: number): SnapPoint[] {
  const { kinds, lanes, tracks, except, sections, playhead, grid } = ground;
  const out: SnapPoint[] = [];
  const offer = (place: number, kind: SnapKind, what: string) => {
    if (place >= 0 && Math.abs(place - at) <= reach) out.push({ at: place, kind, what });
  };
  if (kinds.has("playhead")) offer(playhead, "playhead", "the playhead");
  if (kinds.has("clips"))
    for (const track of tracks)
      for (const clip of lanes.overlapping(track, at - reach - 1, at + reach + 1)) {
        if (except.has(clip.id)) continue;
        offer(clip.start, "clips", `start of ${clip.name}`);
        offer(endOf(clip), "clips", `end of ${clip.name}`);
      }
  if (kinds.has("sections"))
    for (const { name, start, length } of sections) {
      offer(start, "sections", `start of ${name}`);
      offer(start + length, "sections", `end of ${name}`);
    }
  if (kinds.has("grid") && grid > 0) offer(Math.round(Math.round(at / grid) * grid), "grid", "the grid");
  return out;
}

export interface Snapped {
  /** Frames by which the edges must be moved on. */
  readonly by: number;
  readonly to: SnapPoint;
}

/** Of what is prettier to stand at, first comes what is not merely the grid. */
const RANK: Record<SnapKind, number> = { playhead: 0, clips: 0, sections: 0, zero: 0, grid: 1 };

/** The nearest place to any of some edges, within reach; of equally near ones the grid comes last. Null: none. */
export function snap(ground: SnapGround, edges: readonly number[], reach: number): Snapped | null {
  let best: Snapped | null = null;
  for (const edge of edges)
    for (const to of snapPoints(ground, edge, reach)) {
      const by = to.at - edge;
      const nearer = best ? Math.abs(by) - Math.abs(best.by) : -1;
      if (nearer < 0 || (nearer === 0 && best && RANK[to.kind] < RANK[best.to.kind])) best = { by, to };
    }
  return best;
}

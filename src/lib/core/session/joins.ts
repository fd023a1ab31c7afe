// Where two clips of a track meet: they touch, or they overlap and are crossfaded.
import { endOf, stretchesOf, type Lanes } from "./lanes";
import type { Clip } from "./schema";

export interface Join {
  readonly left: Clip;
  readonly right: Clip;
  /** Frames in which both sound; 0 where they touch. */
  readonly overlap: number;
}

/** How two clips of one track meet; undefined when they do not, or one lies within the other. */
export function joinOf(a: Clip, b: Clip): Join | undefined {
  if (a.id === b.id || a.track !== b.track || a.start === b.start) return undefined;
  const [left, right] = a.start < b.start ? [a, b] : [b, a];
  const overlap = endOf(left) - right.start;
  return overlap >= 0 && endOf(right) > endOf(left) ? { left, right, overlap } : undefined;
}

/** Whether the fades of a join are those of its crossfade: both as long as the overlap. */
export function isCrossfade({ left, right, overlap }: Join): boolean {
  return overlap > 0 && left.fadeOut.length === overlap && right.fadeIn.length === overlap;
}

/** The joins of a clip with others. */
export function joinsWith(lanes: Lanes, clip: Clip): Join[] {
  return lanes
    .overlapping(clip.track, clip.start - 1, endOf(clip) + 1)
    .flatMap((other) => joinOf(clip, other) ?? []);
}

/** The joins that some clips have with any, each once. They may be many: each track is looked through once. */
export function joinsOf(lanes: Lanes, clips: readonly Clip[]): Join[] {
  const ids = new Set(clips.map((clip) => clip.id));
  const found: Join[] = [];
  for (const [track, { from, to }] of stretchesOf(clips)) {
    const all = lanes.overlapping(track, from - 1, to + 1);
    all.forEach((left, i) => {
      for (let j = i + 1; ; j++) {
        const right = all[j];
        if (!right || right.start > endOf(left)) break;
        const join = ids.has(left.id) || ids.has(right.id) ? joinOf(left, right) : undefined;
        if (join) found.push(join);
      }
    });
  }
  return found;
}

/** The joins of a track in [from, to), by where they lie. */
export function joinsIn(lanes: Lanes, track: string, from: number, to: number): Join[] {
  const clips = lanes.overlapping(track, from - 1, to + 1);
  return clips.flatMap((left, i) =>
    clips.slice(i + 1).flatMap((right) => {
      const join = right.start <= endOf(left) ? joinOf(left, right) : undefined;
      return join?.left === left ? [join] : [];
    })
  );
}

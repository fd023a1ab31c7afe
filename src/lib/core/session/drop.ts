// What happens to clips on which others are dropped. Pure, so that it is drawn while the drag goes on and done alike on the server.
//
//   dropped on      ▐██a██▌   ▐██b██▌      by      ▐──c──▌ at the end of a
//   crossfade       ▐██a█▐XX▌─c▐█b██▌      both sound where they overlap, faded into each other
//   cover           ▐██a█▐──c──▐█b██▌      what lies under it is cut away
//   stay clear      ▐██a██▌▐c… is moved to the nearest place that is free
//   push along      ▐██a██▐──c──▌▐██b██▌   it goes behind what it falls into, and what comes later makes room
import { assumedCorrelation, crossShape, windowed, withFade } from "./clipWindow";
import { isCrossfade, joinOf, joinsOf } from "./joins";
import { endOf, stretchesOf, type Lanes } from "./lanes";
import { MAX_FRAMES, type Clip } from "./schema";

export const DROP_RULES = ["crossfade", "cover", "stayClear", "pushAlong"] as const;
export type DropRule = (typeof DROP_RULES)[number];

/** What comes of a drop. */
export interface Drop {
  /** The dropped clips as they come to lie. */
  readonly placed: readonly Clip[];
  /** Other clips that change, as they become. */
  readonly changed: readonly Clip[];
  readonly removed: readonly Clip[];
  /** Further parts of clips that were cut in two; they still have the first part's id. */
  readonly parts: readonly Clip[];
}

/** Correlation of two sounds where they overlap, by `pairKey`, where it was measured. */
export type Correlations = Readonly<Record<string, number>>;
export const pairKey = (left: string, right: string) => `${left} ${right}`;

/** Other clips than those that are dropped, as they become. */
class Others {
  readonly #now = new Map<string, Clip>();

  constructor(
    readonly lanes: Lanes,
    readonly moving: ReadonlySet<string>
  ) {}

  near(track: string, from: number, to: number): Clip[] {
    return this.lanes
      .overlapping(track, from, to)
      .flatMap((clip) => (this.moving.has(clip.id) ? [] : [this.#now.get(clip.id) ?? clip]));
  }

  /** Finds those that lie under each of some clips. These may be many: each track is looked through once. */
  under(placed: readonly Clip[]): (clip: Clip) => Clip[] {
    const lanes = new Map(
      [...stretchesOf(placed)].map(([track, { from, to }]) => [track, this.near(track, from, to)])
    );
    return (clip) =>
      (lanes.get(clip.track) ?? [])
        .filter((other) => other.start < endOf(clip) && endOf(other) > clip.start)
        .map((other) => this.now(other));
  }

  now(clip: Clip): Clip {
    return this.#now.get(clip.id) ?? clip;
  }

  set(clip: Clip): void {
    this.#now.set(clip.id, clip);
  }

  get changed(): Clip[] {
    return [...this.#now.values()];
  }
}

function shifted(placed: readonly Clip[], by: number): Clip[] {
  return placed.map((clip) => ({ ...clip, start: clip.start + by }));
}

/**
 * The shift nearest to 0 with which none of the clips lies on another.
 * Each pair forbids an open stretch of shifts; the union around 0 has two ends, and the nearer one is taken.
 */
function clearShift(placed: readonly Clip[], others: Others): number {
  const known = new Map<string, Clip[]>();
  const [begins, ends]: [number[], number[]] = [[], []];
  for (const clip of placed) {
    const lane = known.get(clip.track) ?? others.near(clip.track, 0, MAX_FRAMES);
    known.set(clip.track, lane);
    for (const other of lane) {
      begins.push(other.start - endOf(clip));
      ends.push(endOf(other) - clip.start);
    }
  }
  // Numbers alone sort many times faster than pairs: a stretch is over where as many have ended as have begun.
  const [from, to] = [Float64Array.from(begins).sort(), Float64Array.from(ends).sort()];
  let [open, first, next] = [0, NaN, 0];
  for (const end of to) {
    for (let begin = from[next]; begin !== undefined && begin < end; begin = from[++next])
      if (open++ === 0) first = begin;
    if (--open > 0) continue;
    if (first >= 0) return 0;
    if (end > 0) {
      const least = -Math.min(...placed.map((clip) => clip.start));
      return first >= least && -first <= end ? first : end;
    }
  }
  return 0;
}

/** How much later clips must lie so that none begins inside one that begins before it. */
function shiftBehind(blocks: ReadonlyMap<string, { from: number }>, others: Others): number {
  let by = 0;
  for (;;) {
    let more = 0;
    for (const [track, { from }] of blocks)
      for (const other of others.near(track, from + by, from + by + 1))
        if (other.start < from + by) more = Math.max(more, endOf(other) - from - by);
    if (more === 0) return by;
    by += more;
  }
}

/** The dropped clips of each track as one block; what comes later makes room, with the gaps between them giving way first. */
function push(placed: readonly Clip[], others: Others): Clip[] {
  const blocks = stretchesOf(placed);
  const by = shiftBehind(blocks, others);
  for (const [track, { from, to }] of blocks) {
    let shift = 0;
    let end = NaN;
    for (const other of others.near(track, from + by, MAX_FRAMES)) {
      if (other.start < from + by) continue;
      const first = Number.isNaN(end);
      shift = first ? to + by - other.start : shift - Math.max(0, other.start - end);
      if (shift <= 0) break;
      end = first ? endOf(other) : Math.max(end, endOf(other));
      others.set({ ...other, start: other.start + shift });
    }
  }
  return shifted(placed, by);
}

function cover(placed: readonly Clip[], others: Others): Pick<Drop, "changed" | "removed" | "parts"> {
  const left = new Map<string, { readonly whole: Clip; pieces: Clip[] }>();
  const under = others.under(placed);
  for (const clip of placed)
    for (const other of under(clip)) {
      const entry = left.get(other.id) ?? { whole: other, pieces: [other] };
      left.set(other.id, entry);
      entry.pieces = entry.pieces.flatMap((piece) => {
        if (piece.start >= endOf(clip) || endOf(piece) <= clip.start) return [piece];
        const before = clip.start > piece.start ? [windowed(piece, piece.start, clip.start)] : [];
        const after = endOf(clip) < endOf(piece) ? [windowed(piece, endOf(clip), endOf(piece))] : [];
        return [...before, ...after];
      });
    }
  const entries = [...left.values()];
  return {
    changed: [
      ...others.changed.filter(({ id }) => !left.has(id)),
      ...entries.flatMap((e) => e.pieces.slice(0, 1))
    ],
    removed: entries.flatMap((e) => (e.pieces.length === 0 ? [e.whole] : [])),
    parts: entries.flatMap((e) => e.pieces.slice(1))
  };
}

/** Sets the fades of two clips to where they overlap; to nothing where they no longer do. */
function joined(a: Clip, b: Clip, correlation: number | undefined): readonly [left: Clip, right: Clip] {
  const join = joinOf(a, b);
  if (!join) {
    const [left, right] = a.start < b.start ? [a, b] : [b, a];
    return [withFade(left, "out", 0), withFade(right, "in", 0)];
  }
  const { left, right, overlap } = join;
  const known = isCrossfade(join) && correlation === undefined;
  const shape = known ? undefined : crossShape(correlation ?? assumedCorrelation(left, right));
  return [withFade(left, "out", overlap, shape), withFade(right, "in", overlap, shape)];
}

/** Crossfades follow: where a dropped clip was faded into another, the fades become as long as they now overlap. */
function follow(before: readonly Clip[], placed: readonly Clip[], others: Others): Clip[] {
  const now = new Map(placed.map((clip) => [clip.id, clip]));
  for (const join of joinsOf(others.lanes, before)) {
    if (!isCrossfade(join)) continue;
    const [left, right] = [join.left, join.right].map((c) => now.get(c.id) ?? others.now(c));
    if (!left || !right) continue;
    const after = joinOf(left, right);
    if (after?.left.id === left.id && after.overlap === join.overlap) continue;
    const still = after?.left.id === left.id && after.overlap > 0 ? after.overlap : 0;
    for (const clip of [withFade(left, "out", still), withFade(right, "in", still)])
      if (now.has(clip.id)) now.set(clip.id, clip);
      else others.set(clip);
  }
  return [...now.values()];
}

function crossfade(placed: readonly Clip[], others: Others, correlations: Correlations): Clip[] {
  const under = others.under(placed);
  return placed.map((clip) => {
    let own = clip;
    for (const other of under(clip)) {
      const join = joinOf(own, other);
      if (!join || join.overlap === 0) continue;
      const pair = joined(own, other, correlations[pairKey(join.left.id, join.right.id)]);
      for (const one of pair)
        if (one.id === own.id) own = one;
        else others.set(one);
    }
    return own;
  });
}

/**
 * Drops clips on the timeline.
 * @param lanes the clips as they lie, the dropped ones where they were
 * @param before the dropped clips as they were; none of clips that are new
 * @param wanted as they are to lie: their tracks, starts and windows
 */
export function drop(
  lanes: Lanes,
  before: readonly Clip[],
  wanted: readonly Clip[],
  rule: DropRule,
  correlations: Correlations = {}
): Drop {
  const others = new Others(lanes, new Set(wanted.map((clip) => clip.id)));
  const none = { removed: [], parts: [] };
  switch (rule) {
    case "crossfade": {
      const placed = crossfade(follow(before, wanted, others), others, correlations);
      return { placed, changed: others.changed, ...none };
    }
    case "cover": {
      const placed = follow(before, wanted, others);
      return { placed, ...cover(placed, others) };
    }
    case "stayClear": {
      const placed = follow(before, shifted(wanted, clearShift(wanted, others)), others);
      return { placed, changed: others.changed, ...none };
    }
    case "pushAlong": {
      const placed = follow(before, push(wanted, others), others);
      return { placed, changed: others.changed, ...none };
    }
  }
}

/** A clip whose window grew, as far as the rule lets it: clips that stay clear end where others begin, and nothing is pushed to the left. */
function trimmedWithin(lanes: Lanes, was: Clip, wanted: Clip, rule: DropRule): Clip {
  if (rule === "crossfade" || rule === "cover") return wanted;
  let [start, end] = [wanted.start, endOf(wanted)];
  if (start < was.start)
    for (const other of lanes.overlapping(was.track, start, was.start))
      if (other.id !== was.id) start = Math.max(start, Math.min(was.start, endOf(other)));
  if (rule === "stayClear" && end > endOf(was))
    for (const other of lanes.overlapping(was.track, endOf(was), end))
      if (other.id !== was.id) end = Math.min(end, Math.max(endOf(was), other.start));
  return { ...wanted, start, offset: wanted.offset + start - wanted.start, length: end - start };
}

/** Gives a clip another window; where it grows over others the rule says what happens. */
export function trimmed(
  lanes: Lanes,
  was: Clip,
  wanted: Clip,
  rule: DropRule,
  correlations: Correlations = {}
): Drop {
  const within = trimmedWithin(lanes, was, wanted, rule);
  if (rule !== "stayClear") return drop(lanes, [was], [within], rule, correlations);
  const others = new Others(lanes, new Set([was.id]));
  return { placed: follow([was], [within], others), changed: others.changed, removed: [], parts: [] };
}

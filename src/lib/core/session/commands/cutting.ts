// Cutting clips, taking stretches out, closing gaps.
import { z } from "zod";
import { assumedCorrelation, crossShape, windowed, withFade } from "../clipWindow";
import { cutPieces } from "../cut";
import type { Draft } from "../draft";
import { endOf } from "../lanes";
import { CommandRefused } from "../refused";
import { idSchema, MAX_FRAMES, type Clip } from "../schema";
import { kind } from "./command";
import { clipsNamed, dropClip, Ids, need, needTrack, putPart, seedSchema, WINDOW } from "./lookup";

const id = idSchema;
const frame = z.number().int().min(0).max(MAX_FRAMES);
/** Frames of the crossfade, or of the fades, at each cut. */
const blend = z.number().int().min(0).max(96000);

const cutTouches = (clipIds: readonly string[]) =>
  clipIds.map((clipId) => ({ table: "clips" as const, id: clipId, fields: [...WINDOW, "chain"] }));

/** Cuts clips at places of the timeline; the parts sound as the whole did. */
export const clipCut = kind({
  schema: z.object({
    type: z.literal("clip.cut"),
    cuts: z
      .array(z.object({ clipId: id, at: z.array(frame).min(1).max(1000) }))
      .min(1)
      .max(5000),
    blend,
    seed: seedSchema
  }),
  label: (c, doc) =>
    `split ${clipsNamed(
      doc,
      c.cuts.map((cut) => cut.clipId)
    )}`,
  apply(draft, c) {
    const ids = new Ids(c.seed);
    for (const { clipId, at } of c.cuts) {
      const [first, ...rest] = cutPieces(need(draft, "clips", clipId), at, c.blend);
      if (!first) continue;
      for (const piece of rest) putPart(draft, piece, ids);
      draft.put("clips", first);
    }
  },
  touches: (c) => cutTouches(c.cuts.map((cut) => cut.clipId))
});

/** Moves what lies behind stretches of a track, which are free now, to the left by their lengths. */
function closeGaps(
  draft: Draft,
  trackId: string,
  gaps: readonly { from: number; to: number }[],
  except: ReadonlySet<string>
): void {
  const later = [...draft.values("clips")].filter((clip) => clip.track === trackId && !except.has(clip.id));
  for (const clip of later) {
    let by = 0;
    for (const { from, to } of gaps) if (to <= clip.start) by += to - from;
    if (by > 0) draft.put("clips", { ...clip, start: clip.start - by });
  }
}

/** Stretches of time, joined where they touch, without what still sounds of others. */
function freed(removed: readonly Clip[], left: readonly Clip[]): { from: number; to: number }[] {
  const out: { from: number; to: number }[] = [];
  for (const clip of [...removed].sort((a, b) => a.start - b.start)) {
    const last = out.at(-1);
    if (last && clip.start <= last.to) last.to = Math.max(last.to, endOf(clip));
    else out.push({ from: clip.start, to: endOf(clip) });
  }
  return out.flatMap(({ from, to }) => {
    let free = [{ from, to }];
    for (const clip of left)
      free = free.flatMap((gap) =>
        [
          { from: gap.from, to: Math.min(gap.to, clip.start) },
          { from: Math.max(gap.from, endOf(clip)), to: gap.to }
        ].filter((part) => part.to > part.from)
      );
    return free;
  });
}

export const clipRemove = kind({
  schema: z.object({
    type: z.literal("clip.remove"),
    clipIds: z.array(id).min(1),
    /** Whether what comes later on their tracks moves up. */
    closeGap: z.boolean().optional()
  }),
  label: (c, doc) => `remove ${clipsNamed(doc, c.clipIds)}${c.closeGap ? " and close the gap" : ""}`,
  apply(draft, c) {
    const removed = c.clipIds.map((clipId) => need(draft, "clips", clipId));
    for (const clip of removed) dropClip(draft, clip);
    if (!c.closeGap) return;
    for (const track of new Set(removed.map((clip) => clip.track))) {
      const left = [...draft.values("clips")].filter((clip) => clip.track === track);
      const gaps = freed(
        removed.filter((clip) => clip.track === track),
        left
      );
      closeGaps(draft, track, gaps, new Set());
    }
  }
});

/** Takes a stretch out of one clip and joins both sides; nothing but what comes later in the clip moves. */
export const clipTakeOut = kind({
  schema: z.object({
    type: z.literal("clip.takeOut"),
    clipId: id,
    from: frame,
    to: frame.min(1),
    blend,
    seed: seedSchema
  }),
  label: (c, doc) => `take a piece out of ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    if (c.from <= clip.start || c.to >= endOf(clip) || c.to <= c.from)
      throw new CommandRefused(`The piece does not lie inside "${clip.name}".`);
    const [left, right] = closed(clip, c, Math.floor(c.blend / 2));
    putPart(draft, right, new Ids(c.seed));
    draft.put("clips", left);
  },
  touches: (c) => cutTouches([c.clipId])
});

/** Takes a stretch of time out of clips; closed, what comes later moves up and both sides are crossfaded. */
export const rangeRemove = kind({
  schema: z.object({
    type: z.literal("range.remove"),
    trackIds: z.array(id).min(1).max(200),
    /** The clips that are cut; null: all on the tracks. */
    clipIds: z.array(id).nullable(),
    from: frame,
    to: frame.min(1),
    closeGap: z.boolean(),
    blend,
    /** Of both sides, where it was measured, by the clip's id. */
    correlations: z.record(z.string().max(64), z.number().min(-1).max(1)).optional(),
    seed: seedSchema
  }),
  label: (c) => `take out the range${c.closeGap ? " and close the gap" : ""}`,
  apply(draft, c) {
    const ids = new Ids(c.seed);
    const chosen = c.clipIds && new Set(c.clipIds);
    const half = Math.floor(c.blend / 2);
    for (const trackId of new Set(c.trackIds)) {
      needTrack(draft, trackId);
      const rights: Clip[] = [];
      const touched = [...draft.values("clips")].filter(
        (clip) =>
          clip.track === trackId &&
          (!chosen || chosen.has(clip.id)) &&
          clip.start < c.to &&
          endOf(clip) > c.from
      );
      const met = c.closeGap ? meeting(touched, c, half) : undefined;
      if (met) {
        for (const clip of met) draft.put("clips", clip);
        rights.push(met[1]);
      }
      for (const clip of touched) {
        const keepsLeft = clip.start < c.from;
        const keepsRight = endOf(clip) > c.to;
        if (met?.some(({ id: one }) => one === clip.id)) continue;
        if (!keepsLeft && !keepsRight) {
          dropClip(draft, clip);
          continue;
        }
        if (keepsLeft && keepsRight) {
          const [left, right] = c.closeGap ? closed(clip, c, half) : opened(clip, c);
          rights.push(putPart(draft, right, ids));
          draft.put("clips", left);
          continue;
        }
        const fade = c.closeGap ? half : c.blend;
        if (keepsLeft) draft.put("clips", ended(windowed(clip, clip.start, c.from), "out", fade));
        else {
          const right = ended(windowed(clip, c.to, endOf(clip)), "in", fade);
          draft.put("clips", right);
        }
      }
      if (!c.closeGap) continue;
      // Parts that already moved up lie half a blend before the stretch's start.
      closeGaps(draft, trackId, [{ from: c.from, to: c.to }], new Set(rights.map((clip) => clip.id)));
    }
  },
  touches: (c) => cutTouches(c.clipIds ?? [])
});

const ended = (clip: Clip, edge: "in" | "out", length: number) =>
  withFade(clip, edge, Math.min(length, clip.length >> 1));

/**
 * Two clips between which a stretch is taken out, moved together and crossfaded with what is cut off of each. Undefined unless there is one at each
 * end.
 */
function meeting(
  touched: readonly Clip[],
  { from, to }: { from: number; to: number },
  half: number
): readonly [Clip, Clip] | undefined {
  const lefts = touched.filter((clip) => clip.start < from && endOf(clip) <= to);
  const rights = touched.filter((clip) => clip.start >= from && endOf(clip) > to);
  const [[left], [right]] = [lefts, rights];
  if (!left || !right || lefts.length > 1 || rights.length > 1) return undefined;
  const h = Math.min(half, from - left.start, endOf(left) - from, to - right.start, endOf(right) - to);
  if (h <= 0) return undefined;
  const before = windowed(left, left.start, from + h);
  const cut = windowed(right, to - h, endOf(right));
  const after = { ...cut, start: cut.start - (to - from) };
  const shape = crossShape(assumedCorrelation(before, after));
  return [withFade(before, "out", 2 * h, shape), withFade(after, "in", 2 * h, shape)];
}

/** Both sides of a stretch that is taken out, where they were. */
function opened(clip: Clip, { from, to, blend: fade }: { from: number; to: number; blend: number }) {
  return [
    ended(windowed(clip, clip.start, from), "out", fade),
    ended(windowed(clip, to, endOf(clip)), "in", fade)
  ] as const;
}

/** Both sides of a stretch that is taken out, moved together and crossfaded around where they meet. */
function closed(
  clip: Clip,
  c: { from: number; to: number; correlations?: Record<string, number> | undefined },
  half: number
): readonly [Clip, Clip] {
  const h = Math.min(half, c.from - clip.start, endOf(clip) - c.to, c.to - c.from);
  const left = windowed(clip, clip.start, c.from + h);
  const right = windowed(clip, c.to - h, endOf(clip));
  const moved = { ...right, start: right.start - (c.to - c.from) };
  const shape = crossShape(c.correlations?.[clip.id] ?? assumedCorrelation(left, moved));
  return [withFade(left, "out", 2 * h, shape), withFade(moved, "in", 2 * h, shape)];
}

// Crossfades: where two clips of a track meet.
import { z } from "zod";
import { assumedCorrelation, crossShape, withFade } from "../clipWindow";
import type { Draft } from "../draft";
import { joinOf, type Join } from "../joins";
import { endOf } from "../lanes";
import { CommandRefused } from "../refused";
import { fadeShapeSchema, idSchema, type Clip, type FadeShape } from "../schema";
import { kind } from "./command";
import { need, WINDOW } from "./lookup";

const id = idSchema;
const pair = z.object({ left: id, right: id });

function needJoin(draft: Draft, { left, right }: z.infer<typeof pair>): Join {
  const join = joinOf(need(draft, "clips", left), need(draft, "clips", right));
  if (join?.left.id !== left) throw new CommandRefused("The two clips no longer meet.");
  return join;
}

/** Frames that a clip's recording has before its window, and behind it. */
function spare(draft: Draft, clip: Clip): { before: number; after: number } {
  const { frames } = need(draft, "recordings", clip.content.recordingId);
  return { before: clip.offset, after: frames - clip.offset - clip.length };
}

const begun = (clip: Clip, by: number): Clip => ({
  ...clip,
  start: clip.start + by,
  offset: clip.offset + by,
  length: clip.length - by
});

/** The join with an overlap of a length around its middle, as far as both recordings reach; undefined when they have nothing to overlap. */
function overlapped(draft: Draft, { left, right, overlap }: Join, length: number): Join | undefined {
  const middle = right.start + Math.floor(overlap / 2);
  const first = Math.max(right.start - spare(draft, right).before, left.start + 1);
  const last = Math.min(endOf(left) + spare(draft, left).after, endOf(right) - 1);
  let from = Math.max(first, middle - Math.floor(length / 2));
  const to = Math.min(last, from + length);
  from = Math.max(first, to - length);
  if (to <= from) return undefined;
  return {
    left: { ...left, length: to - left.start },
    right: begun(right, from - right.start),
    overlap: to - from
  };
}

function put(draft: Draft, { left, right, overlap }: Join, out: FadeShape, into: FadeShape): void {
  draft.put("clips", withFade(left, "out", overlap, out));
  draft.put("clips", withFade(right, "in", overlap, into));
}

/** Makes crossfades of a length where clips meet, or gives those that are there another length. */
export const crossfadeSet = kind({
  schema: z.object({
    type: z.literal("crossfade.set"),
    pairs: z
      .array(
        pair.extend({
          length: z.number().int().min(1),
          /** Of the two sounds, where it was measured. */
          correlation: z.number().min(-1).max(1).optional(),
          /** Shapes of one's own choice. */
          out: fadeShapeSchema.optional(),
          into: fadeShapeSchema.optional()
        })
      )
      .min(1)
      .max(5000)
  }),
  label: (c) => (c.pairs.length === 1 ? "crossfade" : `${c.pairs.length} crossfades`),
  apply(draft, { pairs }) {
    let made = 0;
    let name = "";
    for (const one of pairs) {
      const was = needJoin(draft, one);
      name = was.left.name;
      const join = overlapped(draft, was, one.length);
      if (!join) continue;
      made++;
      const level = crossShape(one.correlation ?? assumedCorrelation(join.left, join.right));
      put(draft, join, one.out ?? level, one.into ?? level);
    }
    if (made === 0)
      throw new CommandRefused(
        `"${name}" and what follows have no sound beyond the cut: there is nothing to crossfade.`
      );
  },
  touches: ({ pairs }) =>
    pairs.flatMap(({ left, right }) => [
      { table: "clips" as const, id: left, fields: WINDOW },
      { table: "clips" as const, id: right, fields: WINDOW }
    ])
});

/** Moves a join, or a crossfade as a whole: the left clip ends later and the right one begins later, or both earlier. */
export const crossfadeMove = kind({
  schema: z.object({ type: z.literal("crossfade.move"), ...pair.shape, by: z.number().int() }),
  label: () => "move the join",
  apply(draft, c) {
    const { left, right } = needJoin(draft, c);
    const longer = { ...left, length: left.length + c.by };
    const shorter = begun(right, c.by);
    const possible =
      c.by <= spare(draft, left).after &&
      -c.by <= spare(draft, right).before &&
      shorter.start > left.start &&
      endOf(longer) < endOf(right) &&
      longer.length > longer.fadeOut.length &&
      shorter.length > shorter.fadeIn.length;
    if (!possible) throw new CommandRefused(`"${left.name}" and "${right.name}" cannot meet there.`);
    draft.put("clips", longer);
    draft.put("clips", shorter);
  },
  touches: (c) => [
    { table: "clips", id: c.left, fields: WINDOW },
    { table: "clips", id: c.right, fields: WINDOW }
  ]
});

/** Takes crossfades away: the clips meet in the middle of what overlapped, with a hard cut. */
export const crossfadeRemove = kind({
  schema: z.object({ type: z.literal("crossfade.remove"), pairs: z.array(pair).min(1).max(5000) }),
  label: (c) => (c.pairs.length === 1 ? "remove the crossfade" : `remove ${c.pairs.length} crossfades`),
  apply(draft, { pairs }) {
    for (const one of pairs) {
      const { left, right, overlap } = needJoin(draft, one);
      const middle = right.start + Math.floor(overlap / 2);
      draft.put("clips", withFade({ ...left, length: middle - left.start }, "out", 0));
      draft.put("clips", withFade(begun(right, middle - right.start), "in", 0));
    }
  }
});

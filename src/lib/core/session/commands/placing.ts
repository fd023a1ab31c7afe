// Laying clips out: moving, trimming, slipping, adding, and what that does to their neighbours.
import { z } from "zod";
import { fitted } from "../clipWindow";
import type { Draft } from "../draft";
import { drop, DROP_RULES, trimmed, type Drop } from "../drop";
import { lanesOf } from "../lanes";
import { CommandRefused } from "../refused";
import { chainSchema, clipSchema, idSchema, MAX_FRAMES, type Clip } from "../schema";
import { kind } from "./command";
import {
  clipsNamed,
  dropClip,
  Ids,
  need,
  needNew,
  needTrack,
  needWindow,
  putPart,
  seedSchema,
  WINDOW
} from "./lookup";

const id = idSchema;
const frame = z.number().int().min(0).max(MAX_FRAMES);
const rule = z.enum(DROP_RULES);
/** Measured correlations of sounds that will overlap, by the ids of the left and the right clip. */
const correlations = z.record(z.string().max(140), z.number().min(-1).max(1)).optional();

/** Puts what came of a drop. `seed` names the parts that are new. */
function putDrop(draft: Draft, { placed, changed, removed, parts }: Drop, seed: string): void {
  const ids = new Ids(seed);
  // First the parts: they copy chains that go with what is removed.
  for (const part of parts) putPart(draft, part, ids);
  for (const clip of removed) dropClip(draft, clip);
  for (const clip of [...changed, ...placed]) draft.put("clips", fitted(clip));
}

function placesOf(clips: readonly { readonly clipId: string }[]): string[] {
  return clips.map((one) => one.clipId);
}

export const clipPlace = kind({
  schema: z.object({
    type: z.literal("clip.place"),
    clips: z
      .array(z.object({ clipId: id, trackId: id, start: frame }))
      .min(1)
      .max(20000),
    rule,
    seed: seedSchema,
    correlations
  }),
  label: (c, doc) => `move ${clipsNamed(doc, placesOf(c.clips))}`,
  apply(draft, c) {
    const before = c.clips.map(({ clipId }) => need(draft, "clips", clipId));
    const wanted = c.clips.map(({ trackId, start }, i): Clip => {
      const clip = before[i] as Clip;
      return { ...clip, track: needTrack(draft, trackId).id, start };
    });
    const lanes = lanesOf(
      draft,
      [...before, ...wanted].map((clip) => clip.track)
    );
    putDrop(draft, drop(lanes, before, wanted, c.rule, c.correlations), c.seed);
  },
  touches: (c) => c.clips.map(({ clipId }) => ({ table: "clips", id: clipId, fields: ["start", "track"] }))
});

/** One clip to one place, whatever lies there. */
export const clipMove = kind({
  schema: z.object({ type: z.literal("clip.move"), clipId: id, trackId: id, start: frame }),
  label: (c, doc) => `move ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    draft.put("clips", { ...clip, start: c.start, track: needTrack(draft, c.trackId).id });
  }
});

export const clipTrim = kind({
  schema: z.object({
    type: z.literal("clip.trim"),
    clipId: id,
    start: frame,
    offset: frame,
    length: frame.min(1),
    /** What happens to others where it grows; left out: nothing. */
    rule: rule.optional(),
    seed: seedSchema.optional(),
    correlations
  }),
  label: (c, doc) => `trim ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const { start, offset, length } = c;
    const was = need(draft, "clips", c.clipId);
    const wanted = fitted({ ...was, start, offset, length });
    needWindow(draft, wanted);
    if (!c.rule) {
      draft.put("clips", wanted);
      return;
    }
    const done = trimmed(lanesOf(draft, [was.track]), was, wanted, c.rule, c.correlations);
    putDrop(draft, done, c.seed ?? c.clipId.slice(0, 40));
  },
  touches: (c) => [{ table: "clips", id: c.clipId, fields: WINDOW }]
});

/** Moves the sound inside the windows of clips. */
export const clipSlip = kind({
  schema: z.object({
    type: z.literal("clip.slip"),
    clipIds: z.array(id).min(1),
    /** Frames by which the windows go along their recordings: above 0 later sound is shown. */
    by: z.number().int()
  }),
  label: (c, doc) => `slip ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, { clipIds, by }) {
    for (const clipId of clipIds) {
      const clip = need(draft, "clips", clipId);
      if (clip.offset + by < 0)
        throw new CommandRefused(`"${clip.name}" would reach before the start of its recording.`);
      const slipped = { ...clip, offset: clip.offset + by };
      needWindow(draft, slipped);
      draft.put("clips", slipped);
    }
  },
  touches: (c) => c.clipIds.map((clipId) => ({ table: "clips", id: clipId, fields: ["offset", "length"] }))
});

/** Adds clips, each with its chain when it brings one. */
export const clipInsert = kind({
  schema: z.object({
    type: z.literal("clip.insert"),
    clips: z
      .array(z.object({ clip: clipSchema, chain: chainSchema.nullable() }))
      .min(1)
      .max(5000),
    rule,
    seed: seedSchema,
    correlations,
    /** What undo calls it, as "paste". */
    what: z.string().min(1).max(40)
  }),
  label: (c, doc) =>
    `${c.what} ${
      c.clips.length === 1
        ? (c.clips[0]?.clip.name ?? "clip")
        : clipsNamed(
            doc,
            c.clips.map((one) => one.clip.id)
          )
    }`,
  apply(draft, c) {
    const wanted = c.clips.map(({ clip, chain }) => {
      needNew(draft, "clips", clip.id);
      needTrack(draft, clip.track);
      needWindow(draft, clip);
      if ((chain?.id ?? null) !== clip.chain) throw new CommandRefused("The clip names another chain.");
      if (chain) {
        needNew(draft, "chains", chain.id);
        draft.put("chains", chain);
      }
      return clip;
    });
    const lanes = lanesOf(
      draft,
      wanted.map((clip) => clip.track)
    );
    putDrop(draft, drop(lanes, [], wanted, c.rule, c.correlations), c.seed);
  }
});

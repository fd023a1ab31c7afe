import { z } from "zod";
import { newChain } from "../make";
import { CommandRefused } from "../refused";
import { chainSchema, clipSchema, fadeSchema, idSchema, type Clip } from "../schema";
import { kind } from "./command";
import { clipsNamed, dropClip, need, needClip, needNew, needTrack, needWindow } from "./lookup";

const id = idSchema;
const ids = z.array(id).min(1);
const frame = z.number().int().min(0);

/** A fade never outlasts its clip, and the two never overlap: the closing one gives way. */
function fitted(clip: Clip): Clip {
  const fadeIn = Math.min(clip.fadeIn.length, clip.length);
  const fadeOut = Math.min(clip.fadeOut.length, clip.length - fadeIn);
  return {
    ...clip,
    fadeIn: { ...clip.fadeIn, length: fadeIn },
    fadeOut: { ...clip.fadeOut, length: fadeOut }
  };
}

export const clipAdd = kind({
  schema: z.object({
    type: z.literal("clip.add"),
    clip: clipSchema,
    /** The clip's chain, when it brings one of its own. */
    chain: chainSchema.nullable()
  }),
  label: (c) => `add ${c.clip.name}`,
  apply(draft, c) {
    needNew(draft, "clips", c.clip.id);
    needTrack(draft, c.clip.track);
    needWindow(draft, c.clip);
    if ((c.chain?.id ?? null) !== c.clip.chain) throw new CommandRefused("The clip names another chain.");
    if (c.chain) {
      needNew(draft, "chains", c.chain.id);
      draft.put("chains", c.chain);
    }
    draft.put("clips", c.clip);
  }
});

export const clipRemove = kind({
  schema: z.object({ type: z.literal("clip.remove"), clipIds: ids }),
  label: (c, doc) => `remove ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, c) {
    for (const clipId of c.clipIds) dropClip(draft, need(draft, "clips", clipId));
  }
});

export const clipMove = kind({
  schema: z.object({ type: z.literal("clip.move"), clipId: id, trackId: id, start: frame }),
  label: (c, doc) => `move ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    draft.put("clips", { ...clip, start: c.start, track: needTrack(draft, c.trackId).id });
  }
});

const WINDOW = ["start", "offset", "length"];

export const clipTrim = kind({
  schema: z.object({
    type: z.literal("clip.trim"),
    clipId: id,
    start: frame,
    offset: frame,
    length: frame.min(1)
  }),
  label: (c, doc) => `trim ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const { start, offset, length } = c;
    const clip = fitted({ ...need(draft, "clips", c.clipId), start, offset, length });
    needWindow(draft, clip);
    draft.put("clips", clip);
  },
  touches: (c) => [{ table: "clips", id: c.clipId, fields: WINDOW }]
});

export const clipSplit = kind({
  schema: z.object({
    type: z.literal("clip.split"),
    clipId: id,
    at: frame,
    newId: id,
    /** Ids of the second part's chain and of its steps, if the clip has any. */
    chainId: id,
    stepIds: z.array(id)
  }),
  label: (c, doc) => `split ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const { steps } = needClip(draft, c.clipId);
    const clip = need(draft, "clips", c.clipId);
    needNew(draft, "clips", c.newId);
    const head = c.at - clip.start;
    if (head <= 0 || head >= clip.length)
      throw new CommandRefused(`The split point lies outside "${clip.name}".`);
    if (c.stepIds.length !== steps.length) throw new CommandRefused(`"${clip.name}" has changed meanwhile.`);
    const chained = steps.length > 0;
    if (chained) {
      needNew(draft, "chains", c.chainId);
      const copies = steps.map((step, i) => ({ ...step, id: c.stepIds[i] ?? step.id }));
      draft.put("chains", newChain(c.chainId, copies));
    }
    draft.put("clips", fitted({ ...clip, length: head, fadeOut: { ...clip.fadeOut, length: 0 } }));
    draft.put(
      "clips",
      fitted({
        ...clip,
        id: c.newId,
        start: c.at,
        offset: clip.offset + head,
        length: clip.length - head,
        fadeIn: { ...clip.fadeIn, length: 0 },
        chain: chained ? c.chainId : null
      })
    );
  },
  touches(c, doc) {
    const chain = doc.get("clips", c.clipId)?.chain ?? null;
    return [
      { table: "clips", id: c.clipId, fields: [...WINDOW, "chain"] },
      ...(chain === null ? [] : [{ table: "chains" as const, id: chain }])
    ];
  }
});

export const clipSet = kind({
  schema: z.object({
    type: z.literal("clip.set"),
    clipIds: ids,
    name: clipSchema.shape.name.optional(),
    gainDb: clipSchema.shape.gainDb.optional(),
    muted: z.boolean().optional()
  }),
  label(c, doc) {
    const what = clipsNamed(doc, c.clipIds);
    if (c.gainDb !== undefined) return `gain of ${what}`;
    if (c.muted !== undefined) return `${c.muted ? "mute" : "unmute"} ${what}`;
    return `rename ${what}`;
  },
  apply(draft, { clipIds, name, gainDb, muted }) {
    for (const clipId of clipIds) {
      const clip = need(draft, "clips", clipId);
      draft.put("clips", {
        ...clip,
        name: name ?? clip.name,
        gainDb: gainDb ?? clip.gainDb,
        muted: muted ?? clip.muted
      });
    }
  }
});

/** Sets a clip's gain to bring it to a level that was measured for it. */
export const clipNormalize = kind({
  schema: z.object({
    type: z.literal("clip.normalize"),
    clipId: id,
    gainDb: clipSchema.shape.gainDb,
    target: z.string().max(60)
  }),
  label: (c, doc) => `normalize ${clipsNamed(doc, [c.clipId])} to ${c.target}`,
  apply(draft, c) {
    draft.put("clips", { ...need(draft, "clips", c.clipId), gainDb: c.gainDb });
  },
  touches(c, doc) {
    const chain = doc.get("clips", c.clipId)?.chain ?? null;
    const sounding = ["gainDb", "offset", "length", "fadeIn", "fadeOut", "chain", "content"];
    return [
      { table: "clips", id: c.clipId, fields: sounding },
      ...(chain === null ? [] : [{ table: "chains" as const, id: chain }])
    ];
  }
});

export const clipFade = kind({
  schema: z.object({
    type: z.literal("clip.fade"),
    clipIds: ids,
    edge: z.enum(["in", "out"]),
    fade: fadeSchema
  }),
  label: (c, doc) => `fade ${c.edge} of ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, c) {
    for (const clipId of c.clipIds) {
      const clip = need(draft, "clips", clipId);
      const fade = { ...c.fade, length: Math.min(c.fade.length, clip.length) };
      const other = c.edge === "in" ? clip.fadeOut : clip.fadeIn;
      // The one being set stays; the other gives way.
      const shortened = { ...other, length: Math.min(other.length, clip.length - fade.length) };
      const fades =
        c.edge === "in" ? { fadeIn: fade, fadeOut: shortened } : { fadeIn: shortened, fadeOut: fade };
      draft.put("clips", { ...clip, ...fades });
    }
  }
});

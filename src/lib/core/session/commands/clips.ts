import { z } from "zod";
import { endless, fitted } from "../clipWindow";
import { CommandRefused } from "../refused";
import { chainSchema, clipSchema, fadeSchema, idSchema, type Clip, type Fade } from "../schema";
import { kind } from "./command";
import { clipsNamed, need, needClip, needNew, needTrack, needWindow, putCopy, WINDOW } from "./lookup";

const id = idSchema;
const ids = z.array(id).min(1);
const frame = z.number().int().min(0);

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
    const chain = steps.length > 0 ? putCopy(draft, steps, c.chainId, c.stepIds) : null;
    draft.put("clips", fitted({ ...endless(clip), length: head, fadeOut: { ...clip.fadeOut, length: 0 } }));
    draft.put(
      "clips",
      fitted({
        ...clip,
        id: c.newId,
        start: c.at,
        offset: clip.offset + head,
        length: clip.length - head,
        fadeIn: { ...clip.fadeIn, length: 0 },
        chain
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
    muted: z.boolean().optional(),
    group: clipSchema.shape.group,
    line: clipSchema.shape.line,
    ringOut: clipSchema.shape.ringOut,
    /** null: their chains hear their windows alone. */
    heard: z.null().optional()
  }),
  label(c, doc) {
    const what = clipsNamed(doc, c.clipIds);
    if (c.gainDb !== undefined) return `gain of ${what}`;
    if (c.muted !== undefined) return `${c.muted ? "mute" : "unmute"} ${what}`;
    if (c.line !== undefined) return `${c.line ? "" : "remove the "}gain line of ${what}`;
    if (c.ringOut !== undefined) return `${what}: ${c.ringOut ? "ring out" : "end without ringing"}`;
    if (c.heard !== undefined) return `${what}: chains begin at the edges`;
    if (c.group !== undefined) return `${c.group === null ? "ungroup" : "group"} ${what}`;
    return `rename ${what}`;
  },
  apply(draft, { clipIds, name, gainDb, muted, group, line, ringOut, heard }) {
    for (const clipId of clipIds) {
      const clip = need(draft, "clips", clipId);
      draft.put("clips", {
        ...clip,
        name: name ?? clip.name,
        gainDb: gainDb ?? clip.gainDb,
        muted: muted ?? clip.muted,
        ...(group === undefined ? {} : { group }),
        ...(line === undefined ? {} : { line }),
        ...(ringOut === undefined ? {} : { ringOut }),
        ...(heard === undefined ? {} : { heard })
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

/** One fade of a clip; the other gives way. */
function faded(clip: Clip, edge: "in" | "out", wanted: Fade): Clip {
  const fade = { ...wanted, length: Math.min(wanted.length, clip.length) };
  const other = edge === "in" ? clip.fadeOut : clip.fadeIn;
  const shortened = { ...other, length: Math.min(other.length, clip.length - fade.length) };
  return edge === "in"
    ? { ...clip, fadeIn: fade, fadeOut: shortened }
    : { ...clip, fadeIn: shortened, fadeOut: fade };
}

/** Fades of several clips, each of its own. */
export const clipFades = kind({
  schema: z.object({
    type: z.literal("clip.fades"),
    fades: z
      .array(z.object({ clipId: id, edge: z.enum(["in", "out"]), fade: fadeSchema }))
      .min(1)
      .max(40000)
  }),
  label: (c, doc) => `fade ${clipsNamed(doc, [...new Set(c.fades.map((one) => one.clipId))])}`,
  apply(draft, { fades }) {
    for (const { clipId, edge, fade } of fades)
      draft.put("clips", faded(need(draft, "clips", clipId), edge, fade));
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
  apply(draft, { clipIds, edge, fade }) {
    for (const clipId of clipIds) draft.put("clips", faded(need(draft, "clips", clipId), edge, fade));
  }
});

import { z } from "zod";
import { clipSchema, fadeSchema } from "../schema";
import { CommandRefused, kind } from "./command";
import { clipsNamed, needClip, needNew, needTrack, needWindow } from "./lookup";

const id = z.string();
const ids = z.array(id).min(1);
const frame = z.number().int().min(0);

/** A fade never outlasts its clip, and the two never overlap: the one being set gives way. */
function fitFades(clip: z.infer<typeof clipSchema>): void {
  clip.fadeIn.length = Math.min(clip.fadeIn.length, clip.length);
  clip.fadeOut.length = Math.min(clip.fadeOut.length, clip.length - clip.fadeIn.length);
}

export const clipAdd = kind({
  schema: z.object({ type: z.literal("clip.add"), trackId: id, clip: clipSchema }),
  label: (c) => `add ${c.clip.name}`,
  apply(doc, c) {
    needNew(
      doc.tracks.flatMap((t) => t.clips),
      c.clip.id,
      "clip"
    );
    needWindow(doc, c.clip);
    needTrack(doc, c.trackId).clips.push(c.clip);
  }
});

export const clipRemove = kind({
  schema: z.object({ type: z.literal("clip.remove"), clipIds: ids }),
  label: (c, doc) => `remove ${clipsNamed(doc, c.clipIds)}`,
  apply(doc, c) {
    for (const clipId of c.clipIds) {
      const { clip, track } = needClip(doc, clipId);
      track.clips.splice(track.clips.indexOf(clip), 1);
    }
  }
});

export const clipMove = kind({
  schema: z.object({ type: z.literal("clip.move"), clipId: id, trackId: id, start: frame }),
  label: (c, doc) => `move ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    const { clip, track } = needClip(doc, c.clipId);
    const target = needTrack(doc, c.trackId);
    clip.start = c.start;
    if (target.id === track.id) return;
    const [moved] = track.clips.splice(track.clips.indexOf(clip), 1);
    target.clips.push(moved);
  }
});

export const clipTrim = kind({
  schema: z.object({
    type: z.literal("clip.trim"),
    clipId: id,
    start: frame,
    offset: frame,
    length: frame.min(1)
  }),
  label: (c, doc) => `trim ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    clip.start = c.start;
    clip.offset = c.offset;
    clip.length = c.length;
    needWindow(doc, clip);
    fitFades(clip);
  }
});

export const clipSplit = kind({
  schema: z.object({ type: z.literal("clip.split"), clipId: id, at: frame, newId: id, stepIds: z.array(id) }),
  label: (c, doc) => `split ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    const { clip, track } = needClip(doc, c.clipId);
    needNew(
      doc.tracks.flatMap((t) => t.clips),
      c.newId,
      "clip"
    );
    const head = c.at - clip.start;
    if (head <= 0 || head >= clip.length)
      throw new CommandRefused(`The split point lies outside "${clip.name}".`);
    if (c.stepIds.length !== clip.steps.length)
      throw new CommandRefused(`"${clip.name}" has changed meanwhile.`);
    const right = JSON.parse(JSON.stringify(clip)) as typeof clip;
    right.id = c.newId;
    right.start = c.at;
    right.offset = clip.offset + head;
    right.length = clip.length - head;
    right.fadeIn.length = 0;
    right.steps.forEach((step, i) => (step.id = c.stepIds[i]));
    clip.length = head;
    clip.fadeOut.length = 0;
    fitFades(clip);
    fitFades(right);
    track.clips.push(right);
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
  apply(doc, c) {
    for (const clipId of c.clipIds) {
      const { clip } = needClip(doc, clipId);
      if (c.name !== undefined) clip.name = c.name;
      if (c.gainDb !== undefined) clip.gainDb = c.gainDb;
      if (c.muted !== undefined) clip.muted = c.muted;
    }
  }
});

/** Sets the gains of clips to bring them to a level. */
export const clipNormalize = kind({
  schema: z.object({
    type: z.literal("clip.normalize"),
    clipId: id,
    gainDb: clipSchema.shape.gainDb,
    target: z.string().max(60)
  }),
  label: (c, doc) => `normalize ${clipsNamed(doc, [c.clipId])} to ${c.target}`,
  apply(doc, c) {
    needClip(doc, c.clipId).clip.gainDb = c.gainDb;
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
  apply(doc, c) {
    for (const clipId of c.clipIds) {
      const { clip } = needClip(doc, clipId);
      const other = c.edge === "in" ? clip.fadeOut : clip.fadeIn;
      const fade = { ...c.fade, length: Math.min(c.fade.length, clip.length) };
      other.length = Math.min(other.length, clip.length - fade.length);
      if (c.edge === "in") clip.fadeIn = fade;
      else clip.fadeOut = fade;
    }
  }
});

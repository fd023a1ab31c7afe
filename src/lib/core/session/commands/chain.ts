import { z } from "zod";
import { findEffect } from "../../effects/registry";
import { renderMatches, recipeOf } from "../clipState";
import { recordingSchema, renderSchema, stepSchema } from "../schema";
import { CommandRefused, kind } from "./command";
import { clipsNamed, needClip, needNew, needStep } from "./lookup";

const id = z.string();
const MAX_STEPS = 64;

function effectName(effect: string): string {
  return findEffect(effect)?.name ?? effect;
}

export const stepAdd = kind({
  schema: z.object({
    type: z.literal("step.add"),
    clipId: id,
    step: stepSchema,
    index: z.number().int().min(0)
  }),
  label: (c, doc) => `add ${effectName(c.step.effect)} to ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    needNew(clip.steps, c.step.id, "step");
    if (clip.steps.length >= MAX_STEPS)
      throw new CommandRefused(`"${clip.name}" already has ${MAX_STEPS} steps, which is the most.`);
    clip.steps.splice(Math.min(c.index, clip.steps.length), 0, c.step);
  }
});

export const stepRemove = kind({
  schema: z.object({ type: z.literal("step.remove"), clipId: id, stepId: id }),
  label(c, doc) {
    const { clip } = needClip(doc, c.clipId);
    return `remove ${effectName(needStep(clip, c.stepId).step.effect)} from ${clip.name}`;
  },
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    clip.steps.splice(needStep(clip, c.stepId).index, 1);
  }
});

export const stepMove = kind({
  schema: z.object({
    type: z.literal("step.move"),
    clipId: id,
    stepId: id,
    index: z.number().int().min(0)
  }),
  label(c, doc) {
    const { clip } = needClip(doc, c.clipId);
    return `move ${effectName(needStep(clip, c.stepId).step.effect)} of ${clip.name}`;
  },
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    const { index } = needStep(clip, c.stepId);
    const [moved] = clip.steps.splice(index, 1);
    clip.steps.splice(Math.min(c.index, clip.steps.length), 0, moved);
  }
});

export const stepSet = kind({
  schema: z.object({
    type: z.literal("step.set"),
    clipId: id,
    stepId: id,
    on: z.boolean().optional(),
    params: stepSchema.shape.params.optional()
  }),
  label(c, doc) {
    const { clip } = needClip(doc, c.clipId);
    const effect = findEffect(needStep(clip, c.stepId).step.effect);
    if (c.on !== undefined) return `switch ${effect?.name} ${c.on ? "on" : "off"}`;
    const changed = Object.keys(c.params ?? {});
    const only = changed.length === 1 ? effect?.params.find((p) => p.id === changed[0]) : undefined;
    return only ? `${effect?.name}: ${only.name.toLowerCase()}` : `${effect?.name}: settings`;
  },
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    const { step } = needStep(clip, c.stepId);
    if (c.on !== undefined) step.on = c.on;
    if (c.params) Object.assign(step.params, c.params);
    const checked = stepSchema.safeParse(step);
    if (!checked.success) throw new CommandRefused(checked.error.issues[0].message);
  }
});

/** Puts a whole chain in place of a clip's steps: a preset, or none. */
export const chainReplace = kind({
  schema: z.object({
    type: z.literal("chain.replace"),
    clipId: id,
    steps: z.array(stepSchema).max(MAX_STEPS),
    source: z.string().max(120)
  }),
  label: (c, doc) =>
    c.steps.length === 0
      ? `remove all steps of ${clipsNamed(doc, [c.clipId])}`
      : `apply ${c.source} to ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    needClip(doc, c.clipId).clip.steps = c.steps;
  }
});

export const clipRender = kind({
  schema: z.object({
    type: z.literal("clip.render"),
    clipId: id,
    recording: recordingSchema,
    render: renderSchema
  }),
  label: (c, doc) => `render ${clipsNamed(doc, [c.clipId])}`,
  apply(doc, c) {
    const { clip } = needClip(doc, c.clipId);
    if (!doc.recordings.some((r) => r.id === c.recording.id)) doc.recordings.push(c.recording);
    clip.render = c.render;
    if (!renderMatches(clip) && JSON.stringify(recipeOf(clip.steps)) === JSON.stringify(c.render.steps))
      throw new CommandRefused(`The render does not cover "${clip.name}".`);
  }
});

export const clipRestore = kind({
  schema: z.object({ type: z.literal("clip.restore"), clipIds: z.array(id).min(1) }),
  label: (c, doc) => `restore ${clipsNamed(doc, c.clipIds)}`,
  apply(doc, c) {
    for (const clipId of c.clipIds) {
      const { clip } = needClip(doc, clipId);
      if (!clip.render) throw new CommandRefused(`"${clip.name}" is not rendered.`);
      clip.render = null;
    }
  }
});

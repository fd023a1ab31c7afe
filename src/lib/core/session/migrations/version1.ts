// What version 1 stored: a document as one tree, edits as patches of it. Loose: what is not known is carried along.
import { z } from "zod";

const fade = z.looseObject({ length: z.number(), curve: z.string() });
const recipeStep = z.looseObject({
  effect: z.string(),
  on: z.boolean(),
  params: z.record(z.string(), z.union([z.number(), z.string(), z.boolean()]))
});
const step = recipeStep.extend({ id: z.string() });
const render = z.looseObject({
  recordingId: z.string(),
  origin: z.number(),
  frames: z.number(),
  steps: z.array(recipeStep)
});

const clip = z.looseObject({
  id: z.string(),
  name: z.string(),
  recordingId: z.string(),
  start: z.number(),
  offset: z.number(),
  length: z.number(),
  gainDb: z.number(),
  muted: z.boolean(),
  fadeIn: fade,
  fadeOut: fade,
  steps: z.array(step),
  render: render.nullable()
});

const track = z.looseObject({
  id: z.string(),
  name: z.string(),
  gainDb: z.number(),
  pan: z.number(),
  muted: z.boolean(),
  solo: z.boolean(),
  clips: z.array(clip)
});

const recording = z.looseObject({
  id: z.string(),
  name: z.string(),
  frames: z.number(),
  channels: z.number(),
  sampleRate: z.number(),
  kind: z.enum(["import", "render"]),
  madeFrom: z.string().nullable()
});

const section = z.looseObject({ id: z.string(), name: z.string(), start: z.number(), length: z.number() });

export const document1Schema = z.looseObject({
  format: z.literal("wring/project/1"),
  name: z.string(),
  sampleRate: z.number(),
  tracks: z.array(track),
  sections: z.array(section),
  recordings: z.array(recording)
});

export const patch1Schema = z.object({
  op: z.enum(["add", "remove", "replace"]),
  path: z.array(z.union([z.string(), z.number()])),
  value: z.unknown().optional()
});

export const preset1Schema = z.array(recipeStep);

export type Document1 = z.infer<typeof document1Schema>;
export type Clip1 = z.infer<typeof clip>;
export type Track1 = z.infer<typeof track>;
export type Recording1 = z.infer<typeof recording>;
export type RecipeStep1 = z.infer<typeof recipeStep>;
export type Render1 = z.infer<typeof render>;
export type Fade1 = z.infer<typeof fade>;
export type Patch1 = z.infer<typeof patch1Schema>;

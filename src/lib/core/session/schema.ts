// The document: what a project is. Times are whole samples at the project's rate, levels decibels.
import { z } from "zod";
import { FADE_CURVES } from "../audio/fadeCurve";
import { paramsFault, findEffect } from "../effects/registry";

export const MAX_FRAMES = 2 ** 40;
const id = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, "is not an id");
const name = z.string().trim().min(1, "must not be empty").max(120, "must not be longer than 120 characters");
const frames = z.number().int().min(0).max(MAX_FRAMES);
const gainDb = z.number().min(-96).max(48);

export const fadeSchema = z.object({ length: frames, curve: z.enum(FADE_CURVES) });

export const stepSchema = z
  .object({
    id,
    effect: z.string(),
    on: z.boolean(),
    params: z.record(z.string(), z.union([z.number(), z.string(), z.boolean()]))
  })
  .superRefine((step, context) => {
    const effect = findEffect(step.effect);
    const fault = effect ? paramsFault(effect, step.params) : `There is no effect named "${step.effect}".`;
    if (fault) context.addIssue({ code: "custom", message: fault });
  });

export const recipeStepSchema = z.object({
  effect: z.string(),
  on: z.boolean(),
  params: z.record(z.string(), z.union([z.number(), z.string(), z.boolean()]))
});

/** A render stands for the first steps of a clip: a recording, and how it was made. */
export const renderSchema = z.object({
  recordingId: id,
  /** Position in the source recording that the render's first frame stands for. */
  origin: z.number().int().min(-MAX_FRAMES).max(MAX_FRAMES),
  /** Frames of the render. */
  frames,
  /** The steps that it contains, as they were. */
  steps: z.array(recipeStepSchema)
});

export const clipSchema = z.object({
  id,
  name,
  recordingId: id,
  /** Where it begins on the timeline. */
  start: frames,
  /** Where its window begins in the recording. */
  offset: frames,
  length: frames.min(1),
  gainDb,
  muted: z.boolean(),
  fadeIn: fadeSchema,
  fadeOut: fadeSchema,
  steps: z.array(stepSchema).max(64),
  render: renderSchema.nullable()
});

export const trackSchema = z.object({
  id,
  name,
  gainDb,
  /** -1 left to 1 right. */
  pan: z.number().min(-1).max(1),
  muted: z.boolean(),
  solo: z.boolean(),
  clips: z.array(clipSchema)
});

export const sectionSchema = z.object({ id, name, start: frames, length: frames.min(1) });

/** A recording as a project knows it. The audio itself lies in the media store. */
export const recordingSchema = z.object({
  id,
  name,
  /** Frames at the project's rate. */
  frames,
  channels: z.number().int().min(1).max(8),
  /** Rate of the file; it is conformed to the project's. */
  sampleRate: z.number().int(),
  kind: z.enum(["import", "render"]),
  /** For a render: what it was made from and how. */
  madeFrom: z.string().max(400).nullable()
});

export const PROJECT_RATES = [44100, 48000, 88200, 96000] as const;

export const documentSchema = z.object({
  format: z.literal("wring/project/1"),
  name,
  sampleRate: z.union(PROJECT_RATES.map((rate) => z.literal(rate))),
  tracks: z.array(trackSchema).max(200),
  sections: z.array(sectionSchema).max(500),
  recordings: z.array(recordingSchema)
});

export type Step = z.infer<typeof stepSchema>;
export type RecipeStep = z.infer<typeof recipeStepSchema>;
export type Render = z.infer<typeof renderSchema>;
export type Clip = z.infer<typeof clipSchema>;
export type Track = z.infer<typeof trackSchema>;
export type Recording = z.infer<typeof recordingSchema>;
export type Document = z.infer<typeof documentSchema>;

// The entities of a document, one schema a table. Times are whole samples at the project's rate, levels decibels.
// Fields that are not known here are kept: a newer version may have written them.
import { z } from "zod";
import { FADE_CURVES } from "../audio/fadeCurve";
import { findEffect, paramsFault } from "../effects/registry";

/** Version of documents, edits and presets as they are stored. Older ones are brought up by migrations/. */
export const DOCUMENT_VERSION = 2;
export const MAX_FRAMES = 2 ** 40;
export const MAX_STEPS = 64;
export const PROJECT_RATES = [44100, 48000, 88200, 96000] as const;

export const idSchema = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, "is not an id");
const id = idSchema;
const name = z.string().trim().min(1, "must not be empty").max(120, "must not be longer than 120 characters");
const frames = z.number().int().min(0).max(MAX_FRAMES);
const gainDb = z.number().min(-96).max(48);
const chain = id.nullable();

/** The gain over a fade. Points drawn by hand and a bend come as further fields. */
export const fadeShapeSchema = z.looseObject({ curve: z.enum(FADE_CURVES) });
export const fadeSchema = z.looseObject({ length: frames, shape: fadeShapeSchema });

/** The stretch that a step treats. */
export const spanSchema = z.looseObject({
  from: frames.describe(
    "Frames of the recording for clips and recordings, of the timeline for tracks and the mix. `to` lies behind the last."
  ),
  to: frames,
  edgeMs: z
    .number()
    .min(0)
    .max(500)
    .optional()
    .describe("Blending at both ends, in milliseconds; 5 when left out.")
});

const paramsSchema = z.record(z.string(), z.union([z.number(), z.string(), z.boolean()]));

/** A step without its identity: what a render or a preset depends on. */
export const recipeStepSchema = z.looseObject({
  effect: z.string(),
  on: z.boolean(),
  params: paramsSchema,
  span: spanSchema.nullable().describe("null: the whole of the owner.")
});

export const stepSchema = recipeStepSchema.extend({ id }).superRefine((step, context) => {
  const effect = findEffect(step.effect);
  const fault = effect ? paramsFault(effect, step.params) : `There is no effect named "${step.effect}".`;
  if (fault) context.addIssue({ code: "custom", message: fault });
});

export const projectSchema = z.looseObject({
  id: z.literal("project").describe('There is one: its id is "project".'),
  name,
  sampleRate: z.union(PROJECT_RATES.map((rate) => z.literal(rate))),
  mix: z.looseObject({ chain, gainDb })
});

export const trackSchema = z.looseObject({
  id,
  name,
  order: z.number().finite().describe("Place among the tracks, from the top; equal ones by id."),
  gainDb,
  pan: z.number().min(-1).max(1).describe("-1 left to 1 right."),
  muted: z.boolean(),
  solo: z.boolean(),
  chain
});

/** What a clip shows. Parts made of notes and pictures come as further kinds. */
export const contentSchema = z.discriminatedUnion("kind", [
  z.looseObject({ kind: z.literal("audio"), recordingId: id })
]);

/** A render stands for the first steps of a clip: a recording, and how it was made. */
export const renderSchema = z.looseObject({
  recordingId: id,
  origin: z
    .number()
    .int()
    .min(-MAX_FRAMES)
    .max(MAX_FRAMES)
    .describe("Position in the source recording that the render's first frame stands for."),
  /** Frames of the render. */
  frames,
  steps: z.array(recipeStepSchema).describe("The steps that it contains, as they were."),
  window: z.looseObject({ offset: frames, length: frames }).describe("The clip's window when it was made."),
  recordingSteps: z
    .array(recipeStepSchema)
    .optional()
    .describe("The steps of the recording's own chain, as they were; left out: none.")
});

export const clipSchema = z.looseObject({
  id,
  name,
  track: id,
  start: frames.describe("Where it begins on the timeline."),
  content: contentSchema,
  offset: frames.describe(
    "The window on the recording: where it begins, and its frames, as many as the clip takes on the timeline."
  ),
  length: frames.min(1),
  gainDb,
  muted: z.boolean(),
  fadeIn: fadeSchema,
  fadeOut: fadeSchema,
  chain,
  render: renderSchema.nullable()
});

export const chainSchema = z.looseObject({
  id,
  steps: z.array(stepSchema).max(MAX_STEPS).describe("In the order in which they are heard.")
});

/** What a render was made from, and how. */
export const provenanceSchema = z.looseObject({
  text: z.string().max(400).describe("In words, for people."),
  source: id.nullable(),
  window: z.looseObject({ offset: z.number().int(), length: frames }).nullable(),
  steps: z.array(recipeStepSchema).nullable()
});

/** A recording as a project knows it. The audio itself lies in the media store, under the hash. */
export const recordingSchema = z.looseObject({
  id,
  name,
  media: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable()
    .describe("SHA-256 of the file's content, hexadecimal; null: not noted, as by version 1."),
  /** Frames at the project's rate. */
  frames,
  channels: z.number().int().min(1).max(8),
  sampleRate: z.number().int().describe("Rate of the file; it is conformed to the project's."),
  kind: z.enum(["import", "render"]),
  provenance: provenanceSchema.nullable(),
  chain
});

export const sectionSchema = z.looseObject({ id, name, start: frames, length: frames.min(1) });

/** All tables and the schema of their entities. */
export const tableSchemas = {
  project: projectSchema,
  tracks: trackSchema,
  clips: clipSchema,
  chains: chainSchema,
  recordings: recordingSchema,
  sections: sectionSchema
} as const;

export type TableName = keyof typeof tableSchemas;
export const TABLES = Object.keys(tableSchemas) as readonly TableName[];

/** The fields that are known here, without the room for unknown ones: so that a misspelt field is a fault of types. */
type Known<T> = T extends readonly (infer U)[]
  ? Known<U>[]
  : T extends object
    ? { [K in keyof T as string extends K ? (unknown extends T[K] ? never : K) : K]: Known<T[K]> }
    : T;

export type Fade = Known<z.infer<typeof fadeSchema>>;
export type Step = Known<z.infer<typeof stepSchema>>;
export type RecipeStep = Known<z.infer<typeof recipeStepSchema>>;
export type Render = Known<z.infer<typeof renderSchema>>;
export type Project = Known<z.infer<typeof projectSchema>>;
export type Track = Known<z.infer<typeof trackSchema>>;
export type Clip = Known<z.infer<typeof clipSchema>>;
export type Chain = Known<z.infer<typeof chainSchema>>;
export type Recording = Known<z.infer<typeof recordingSchema>>;
export type Section = Known<z.infer<typeof sectionSchema>>;

export interface Entities {
  project: Project;
  tracks: Track;
  clips: Clip;
  chains: Chain;
  recordings: Recording;
  sections: Section;
}
export type Entity = Entities[TableName];

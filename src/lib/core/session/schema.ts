// The entities of a document, one schema a table. Times are whole samples at the project's rate, levels decibels.
// Fields that are not known here are kept: a newer version may have written them.
import { z } from "zod";
import { JOINS, MAX_FADE_POINTS } from "../audio/envelope";
import { FADE_CURVES } from "../audio/fades";
import { findEffect, paramsFault } from "../effects/registry";

/** Version of documents, edits and presets as they are stored. Older ones are brought up by migrations/. */
export const DOCUMENT_VERSION = 2;
export const MAX_FRAMES = 2 ** 40;
export const MAX_STEPS = 64;
/** Versions that a clip keeps; the oldest goes when another comes. */
export const MOST_VERSIONS = 50;
export const PROJECT_RATES = [44100, 48000, 88200, 96000] as const;

export const idSchema = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, "is not an id");
const id = idSchema;
const name = z.string().trim().min(1, "must not be empty").max(120, "must not be longer than 120 characters");
const frames = z.number().int().min(0).max(MAX_FRAMES);
const gainDb = z.number().min(-96).max(48);
const chain = id.nullable();

const ascending = (points: readonly { at: number }[]) =>
  points.every((point, i) => i === 0 || point.at > (points[i - 1]?.at ?? 0));
const IN_ORDER = "must have its points in order, each at a place of its own";
const bend = z
  .number()
  .min(-10)
  .max(10)
  .optional()
  .describe("Above 0 it changes early, below 0 late; 0 when left out.");

/** The gain over a fade. */
export const fadeShapeSchema = z.looseObject({
  curve: z.enum(FADE_CURVES),
  bend,
  correlation: z
    .number()
    .min(0)
    .max(1)
    .optional()
    .describe("Of level power: of the two sounds that it crosses."),
  points: z
    .array(z.looseObject({ at: z.number().gt(0).lt(1), gain: z.number().min(0).max(1) }))
    .max(MAX_FADE_POINTS)
    .refine(ascending, IN_ORDER)
    .optional()
    .describe("Of a drawn curve, between silence at 0 and full level at 1: shares of its length, and gains."),
  join: z.enum(JOINS).optional().describe("How the points are joined; smooth when left out.")
});
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

/** Least level of a gain line: there, and below, is silence. */
export const LINE_FLOOR_DB = -96;
export const LINE_MOST_DB = 24;

const lineOf = (value: z.ZodNumber) =>
  z.looseObject({
    points: z
      .array(z.looseObject({ at: frames, value, bend }))
      .min(1)
      .max(2000)
      .refine(ascending, IN_ORDER),
    join: z.enum(JOINS)
  });
/** A gain over time, in decibels, or a pan. */
export const gainLineSchema = lineOf(z.number().min(LINE_FLOOR_DB).max(LINE_MOST_DB));
export const panLineSchema = lineOf(z.number().min(-1).max(1));

/** What a track is for. */
export const ROLES = ["dialogue", "music", "effects", "notes"] as const;
export type Role = (typeof ROLES)[number];

const paramsSchema = z.record(z.string(), z.union([z.number(), z.string(), z.boolean()]));

/** A step without its identity: what a render or a preset depends on. */
export const recipeStepSchema = z.looseObject({
  effect: z.string().min(1).max(64),
  on: z.boolean(),
  params: paramsSchema,
  span: spanSchema.nullable().describe("null: the whole of the owner.")
});

/** Steps of effects that this version does not have are kept as they are. */
export const stepSchema = recipeStepSchema.extend({ id }).superRefine((step, context) => {
  const effect = findEffect(step.effect);
  const fault = effect && paramsFault(effect, step.params);
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
  role: z.enum(ROLES).nullable().optional().describe("What it is for; null or left out: not said."),
  gainLine: gainLineSchema.nullable().optional().describe("Beside its gain, over the timeline."),
  panLine: panLineSchema.nullable().optional().describe("Instead of its pan, over the timeline."),
  chain
});

/** What a clip shows. Parts made of notes and pictures come as further kinds. */
export const contentSchema = z.discriminatedUnion("kind", [
  z.looseObject({ kind: z.literal("audio"), recordingId: id })
]);

/** Frames of a recording; `to` lies behind the last. */
export const heardSchema = z.looseObject({ from: frames, to: frames });

/** Whether what a clip's chain leaves ringing sounds on after the clip's end. */
export const ringOutSchema = z.looseObject({
  frames: frames.nullable().describe("How long, 30 s at most; null: until the chain has died away.")
});

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
  heard: heardSchema.optional().describe("What the chain heard; left out: the window."),
  recordingSteps: z
    .array(recipeStepSchema)
    .optional()
    .describe("The steps of the recording's own chain, as they were; left out: none."),
  rung: z
    .looseObject({ ringOut: ringOutSchema, fadeOut: fadeSchema, frames })
    .optional()
    .describe(
      "Of a clip that rings out: how, its closing fade, which the render contains, and the frames that ring after the window."
    )
});

/** A state of a clip's treatment that was kept: at a render, or when it was asked for. */
export const versionSchema = z.looseObject({
  id,
  name,
  made: z.string().max(30).describe("When, ISO 8601."),
  lufs: z
    .number()
    .nullable()
    .describe("Integrated loudness of the clip with it; null: silence, or not known."),
  steps: z.array(recipeStepSchema).max(MAX_STEPS).describe("The chain as it was."),
  render: renderSchema.nullable()
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
  heard: heardSchema
    .nullable()
    .optional()
    .describe(
      "The frames of the recording that its chain hears: of a clip that was cut off another, what that one showed. null or left out: its window alone."
    ),
  gainDb,
  line: gainLineSchema
    .nullable()
    .optional()
    .describe("A gain beside its own, over frames of the recording: trimming leaves it where it is."),
  muted: z.boolean(),
  ringOut: ringOutSchema
    .nullable()
    .optional()
    .describe(
      "What its chain leaves ringing sounds on after its end; null or left out: it ends with the clip."
    ),
  group: id.nullable().optional().describe("Clips of one group are selected and moved together."),
  fadeIn: fadeSchema,
  fadeOut: fadeSchema,
  chain,
  render: renderSchema.nullable(),
  versions: z
    .array(versionSchema)
    .max(MOST_VERSIONS)
    .optional()
    .describe("States that were kept, the oldest first.")
});

export const chainSchema = z.looseObject({
  id,
  steps: z.array(stepSchema).max(MAX_STEPS).describe("In the order in which they are heard.")
});

/** How a render was made beside its steps: enough to make it again. */
const makingSchema = z.looseObject({
  window: z
    .looseObject({ offset: frames, length: frames })
    .describe("The window of the clip, without handles and tail."),
  heard: heardSchema.optional().describe("What the chain heard; left out: the window."),
  handles: frames.describe("Frames that were wanted on both sides."),
  rung: z
    .looseObject({ ringOut: ringOutSchema, fadeOut: fadeSchema })
    .optional()
    .describe("Of a clip that rings out.")
});

/** What a render was made from, and how. */
export const provenanceSchema = z.looseObject({
  text: z.string().max(400).describe("In words, for people."),
  source: id.nullable(),
  window: z.looseObject({ offset: z.number().int(), length: frames }).nullable(),
  steps: z.array(recipeStepSchema).nullable(),
  recordingSteps: z
    .array(recipeStepSchema)
    .optional()
    .describe("Steps of the source's own chain, before those."),
  making: makingSchema.optional().describe("Left out: not noted, as by older versions."),
  clips: z
    .array(id)
    .max(2000)
    .optional()
    .describe("The clips that it was made of together, which were muted then.")
});

const words = (most: number) => z.string().max(most);

/** What the file that a recording came from says of itself. */
export const aboutSchema = z.looseObject({
  file: words(255).describe("Name of the file as it was given."),
  format: words(60).describe("Container, as WAV or MP4, and coding."),
  tags: z.record(z.string().max(60), words(1000)).describe("Title, artist, scene, take, notes and the like."),
  origin: z
    .number()
    .int()
    .min(0)
    .nullable()
    .describe(
      "Frames of the file since midnight to its first (the time reference of a broadcast WAV); null: not told."
    ),
  markers: z
    .array(z.looseObject({ name: words(200), start: frames, length: frames }))
    .max(2000)
    .describe("Cue points, regions and chapters, in frames at the project's rate."),
  video: z
    .looseObject({
      container: words(20).describe("Ending of its name, by which it is written."),
      offset: z.number().describe("Seconds from the first picture to the first sample."),
      width: z.number().int(),
      height: z.number().int(),
      frameRate: z.number()
    })
    .nullable()
    .describe("The picture that the sound belongs to; null: none."),
  sounds: z
    .array(z.looseObject({ stream: z.number().int(), name: words(120) }))
    .max(64)
    .describe("All sound tracks of the file, where there are several."),
  stream: z.number().int().nullable().describe("The one that this is; null: there is one only."),
  loudness: z
    .number()
    .nullable()
    .optional()
    .describe("Integrated loudness in LUFS; null: silence or too short."),
  note: words(400).nullable().describe("Why it may not be exact, in words; null: it is.")
});

/** A recording as a project knows it. The audio itself lies in the media store, under the hash. */
export const recordingSchema = z.looseObject({
  id,
  name,
  media: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable()
    .describe(
      "SHA-512/256 of the file's content, SHA-256 from earlier versions, hexadecimal; null: not noted, as by version 1."
    ),
  /** Frames at the project's rate. */
  frames,
  channels: z.number().int().min(1).max(8),
  sampleRate: z.number().int().describe("Rate of the file; it is conformed to the project's."),
  kind: z.enum(["import", "render"]),
  provenance: provenanceSchema.nullable(),
  about: aboutSchema.optional(),
  folder: words(400)
    .optional()
    .describe('Where it lies on the shelf, as "Day 1/Interviews"; left out: at the top.'),
  labels: z.array(words(40)).max(20).optional().describe("Words that people gave it to find it by."),
  binned: z
    .number()
    .int()
    .optional()
    .describe("When it was moved to the bin, in milliseconds since 1970; left out: it is not there."),
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

export type FadeShape = Known<z.infer<typeof fadeShapeSchema>>;
export type RingOut = Known<z.infer<typeof ringOutSchema>>;
export type GainLine = Known<z.infer<typeof gainLineSchema>>;
export type Fade = Known<z.infer<typeof fadeSchema>>;
export type Step = Known<z.infer<typeof stepSchema>>;
export type RecipeStep = Known<z.infer<typeof recipeStepSchema>>;
export type Version = Known<z.infer<typeof versionSchema>>;
export type Render = Known<z.infer<typeof renderSchema>>;
export type Project = Known<z.infer<typeof projectSchema>>;
export type Track = Known<z.infer<typeof trackSchema>>;
export type Clip = Known<z.infer<typeof clipSchema>>;
export type Chain = Known<z.infer<typeof chainSchema>>;
export type About = Known<z.infer<typeof aboutSchema>>;
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

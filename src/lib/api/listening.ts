// What is heard on the server and not in the page: learning, and the levels of a chain. Answers are lines of JSON.
import { z } from "zod";
import type { CurveJson, MeasurementJson } from "$lib/core/measure/json";
import type { Finding } from "$lib/core/measure/examine/finding";
import type { MonoView } from "$lib/core/measure/monoLook";
import type { SpectraJson } from "$lib/core/measure/spectraJson";
import { CHAIN_OWNERS } from "$lib/core/session/owners";
import type { Learnt } from "$lib/core/effects/description";
import type { Shape } from "$lib/core/render/clipAnalysis";
import type { SoundPart } from "$lib/core/render/soundPart";
import {
  clipSchema,
  fadeSchema,
  idSchema,
  MAX_FRAMES,
  MAX_STEPS,
  stepSchema
} from "$lib/core/session/schema";

const frames = z.number().int().min(0).max(MAX_FRAMES);
const signed = z.number().int().min(-MAX_FRAMES).max(MAX_FRAMES);
const steps = z.array(stepSchema).max(MAX_STEPS);

const onePart = z.object({
  recordingId: idSchema,
  offset: signed,
  length: frames.min(1),
  origin: signed,
  steps
});
const part = onePart.extend({
  under: onePart.optional(),
  closing: fadeSchema.optional(),
  inside: z.object({ from: frames, length: frames.min(1) }).optional(),
  rings: frames.optional()
}) as unknown as z.ZodType<SoundPart>;
const shape = clipSchema
  .pick({ gainDb: true, line: true, offset: true, fadeIn: true, fadeOut: true })
  .nullable() as unknown as z.ZodType<Shape>;
const bins = z.number().int().min(1).max(4096);

/** What is to be drawn beside the levels: a step over time, spectra before and after. */
const pictures = z.object({ traced: idSchema.optional(), spectra: z.boolean().optional() }).optional();
const within = z.object({ from: frames, to: frames }).nullable().optional();
/** A stretch of the owner's sound: of a clip or a recording by its part, else of the timeline. */
const sound = z.union([
  z.object({ part, within }),
  z.object({
    owner: z.object({ table: z.enum(CHAIN_OWNERS), id: idSchema }),
    from: frames,
    to: frames.nullable()
  })
]);

export const listenSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("learn"), part }),
  z.object({
    kind: z.literal("part"),
    part,
    shape,
    bins,
    pictures,
    /** The frames of the part whose levels are measured; all when left out. */
    within
  }),
  /** What is wrong with a sound as it comes to its chain. */
  z.object({ kind: z.literal("examine"), sound }),
  /** What becomes of a sound, as it leaves its chain, in mono. */
  z.object({ kind: z.literal("mono"), sound }),
  /** How long a clip rings after its end. */
  z.object({ kind: z.literal("ring"), part }),
  /** What becomes of two clips that sound at the same time, one on each side, in mono. */
  z.object({ kind: z.literal("together"), clips: z.tuple([idSchema, idSchema]) }),
  z.object({
    kind: z.literal("bus"),
    owner: z.object({ table: z.enum(CHAIN_OWNERS), id: idSchema }),
    from: frames,
    /** null: to the end of the programme. */
    to: frames.nullable(),
    bins,
    pictures,
    /** A chain instead of the owner's own, to hear what it would do. */
    steps: steps.optional()
  })
]);
export type ListenWish = z.infer<typeof listenSchema>;
export type SoundWish = z.infer<typeof sound>;

export interface StageJson {
  readonly stepId: string | null;
  readonly measurement: MeasurementJson | null;
  readonly learnt?: Learnt["values"] | undefined;
  /** Whether the step has changed anything. */
  readonly changed?: boolean | undefined;
  /** Share of one core that it takes while it plays. */
  readonly cost?: number | undefined;
}

export interface TraceJson {
  readonly stepId: string;
  readonly inPeaks: readonly number[];
  readonly outPeaks: readonly number[];
  readonly inSpectra: SpectraJson;
  readonly outSpectra: SpectraJson;
  readonly changed: readonly number[];
}

/** Levels of a chain, as far as they are known. */
export interface AnalysisJson {
  readonly stages: readonly StageJson[];
  readonly output: MeasurementJson | null;
  readonly before: readonly number[];
  readonly after: readonly number[];
  /** Loudness over time: of a track or the mix. */
  readonly loudness?: CurveJson;
  readonly trace?: TraceJson;
  readonly spectra?: { readonly before: SpectraJson; readonly after: SpectraJson };
}

/** What steps have learnt, by their index; `sound`: some of it is sound, which does not come along. */
export interface LessonJson {
  readonly learnt: readonly (Learnt["values"] | null)[];
  readonly sound: boolean;
}

/** Numbers that are not finite don't travel as JSON. */
export type MonoJson = Omit<MonoView, "lossLu"> & { readonly lossLu: number | null };

/** One line of an answer. */
export type ListenLine =
  | { readonly type: "progress"; readonly share: number; readonly soFar?: AnalysisJson }
  | { readonly type: "analysis"; readonly analysis: AnalysisJson }
  | { readonly type: "lesson"; readonly lesson: LessonJson }
  | { readonly type: "findings"; readonly findings: readonly Finding[] }
  | { readonly type: "mono"; readonly mono: MonoJson }
  /** Frames after the part's end. */
  | { readonly type: "ring"; readonly frames: number }
  | { readonly type: "failed"; readonly error: string };

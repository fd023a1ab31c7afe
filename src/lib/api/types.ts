// What goes over the wire between pages and routes: plain data, known to both sides.
import { z } from "zod";
import { commandSchema } from "$lib/core/session/apply";
import type { MeasurementJson } from "$lib/core/measure/json";
import {
  documentSchema,
  PROJECT_RATES,
  recipeStepSchema,
  stepSchema,
  type Document
} from "$lib/core/session/schema";

export interface ProjectSummary {
  readonly id: string;
  readonly name: string;
  readonly lengthSeconds: number;
  readonly tracks: number;
  readonly sampleRate: number;
  readonly changedAt: string;
}

/** The true state of a project: what a page shows and the next edit is based on. */
export interface ProjectState {
  readonly id: string;
  readonly revision: number;
  readonly document: Document;
  /** Name of what undo would take back, and redo bring again; null: nothing. */
  readonly undo: string | null;
  readonly redo: string | null;
}

export const newProjectSchema = z.object({
  name: documentSchema.shape.name,
  sampleRate: z.union(PROJECT_RATES.map((rate) => z.literal(rate)))
});

export const editSchema = z.object({ revision: z.number().int().min(0), command: commandSchema });
export const stepBackSchema = z.object({
  revision: z.number().int().min(0),
  direction: z.enum(["undo", "redo"])
});

export interface JobView {
  readonly id: string;
  readonly projectId: string | null;
  readonly kind: "import" | "render" | "measure" | "export";
  readonly title: string;
  readonly state: "queued" | "running" | "done" | "failed" | "cancelled";
  readonly progress: number;
  readonly error: string | null;
  readonly result: unknown;
}

export interface MeasureView {
  readonly untreated: MeasurementJson;
  readonly treated: MeasurementJson;
}

export interface ExportView {
  readonly fileName: string;
  readonly frames: number;
  readonly bytes: number;
  readonly measurement: MeasurementJson;
}

const frames = z.number().int().min(0);
export const newJobSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("render"),
    clipId: z.string(),
    handleSeconds: z.number().min(0).max(3600),
    tail: z.union([z.literal("auto"), z.number().min(0).max(60)])
  }),
  z.object({ kind: z.literal("measure"), clipId: z.string() }),
  z.object({
    kind: z.literal("export"),
    from: frames,
    to: frames,
    format: z.enum(["int16", "int24", "float32"]),
    dither: z.boolean()
  })
]);
export type NewJob = z.infer<typeof newJobSchema>;

export interface PresetView {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly steps: z.infer<typeof recipeStepSchema>[];
}

export const newPresetSchema = z.object({
  name: z.string().trim().min(1, "A preset needs a name.").max(80),
  notes: z.string().max(1000),
  steps: z.array(stepSchema).min(1, "A preset needs at least one step.").max(64)
});

// Batches: one chain, and a level if wanted, for many clips or recordings in one action.
import { z } from "zod";
import { idSchema, MAX_STEPS, recipeStepSchema, recordingSchema } from "$lib/core/session/schema";
import { NORMALIZE_TARGETS } from "$lib/core/effects/normalize";
import type { JobState } from "./jobs";

const targets = Object.keys(NORMALIZE_TARGETS) as [keyof typeof NORMALIZE_TARGETS];

export const newBatchSchema = z.object({
  /** What the report calls it. */
  name: z.string().trim().min(1).max(80),
  steps: z.array(recipeStepSchema).max(MAX_STEPS),
  /** Recordings that the steps ask for. */
  recordings: z.array(recordingSchema).max(50).default([]),
  /** A level that every sound is brought to last, by one gain each; null: none. */
  level: z
    .object({
      target: z.enum(targets),
      levelDb: z.number().min(-60).max(0),
      ceilingDb: z.number().min(-60).max(0).nullable()
    })
    .nullable(),
  items: z
    .array(z.object({ kind: z.enum(["clip", "recording"]), id: idSchema }))
    .min(1)
    .max(2000),
  /** Whether the steps of clips take the place of those that they have, or come behind them. */
  mode: z.enum(["replace", "append"])
});
export type NewBatch = z.input<typeof newBatchSchema>;

/** Levels of a sound, as a batch's report tells them; null: silence, too short, or not measured. */
export interface BatchLevels {
  readonly integratedLufs: number | null;
  readonly loudnessRangeLu: number | null;
  readonly truePeakDbtp: number | null;
}

/** One sound of a batch, as its report tells it. */
export interface BatchItem {
  readonly jobId: string;
  readonly kind: "clip" | "recording";
  readonly id: string;
  readonly name: string;
  readonly state: JobState;
  readonly progress: number;
  readonly error: string | null;
  /** Without its true peak: that costs as much as all else. */
  readonly before: BatchLevels | null;
  readonly after: BatchLevels | null;
  /** Name of the recording that was made. */
  readonly made: string | null;
}

export interface BatchView {
  readonly id: string;
  readonly name: string;
  /** When it was ordered, ISO 8601. */
  readonly date: string;
  readonly items: readonly BatchItem[];
  /** Whether its results are in the project; as long as sounds are under way they are not. */
  readonly applied: "waiting" | "applied" | "failed";
  /** Why they could not be put into the project. */
  readonly error: string | null;
}

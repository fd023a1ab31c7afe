// Jobs as pages order and see them.
import { z } from "zod";
import type { MeasurementJson } from "$lib/core/measure/json";
import { MAX_FRAMES } from "$lib/core/session/schema";

export type JobState = "queued" | "running" | "done" | "failed" | "cancelled";

export interface JobView {
  readonly id: string;
  readonly projectId: string | null;
  readonly kind: string;
  readonly title: string;
  readonly state: JobState;
  readonly progress: number;
  readonly error: string | null;
  readonly result: unknown;
  /** When it ended; null: it has not. */
  readonly endedAt: string | null;
}

/** Jobs under way, and those that ended since a page last asked. */
export interface JobsView {
  readonly open: readonly JobView[];
  readonly ended: readonly JobView[];
  /** Ask with this the next time. */
  readonly until: string;
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
  /** Names of recordings in it whose file is damaged or missing. */
  readonly broken?: readonly string[];
}

const frames = z.number().int().min(0).max(MAX_FRAMES);
export const newJobSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("measure"), clipId: z.string() }),
  z.object({ kind: z.literal("picture"), recordingId: z.string() }),
  z.object({ kind: z.literal("soundTrack"), recordingId: z.string(), stream: z.number().int().min(0) }),
  z.object({
    kind: z.literal("export"),
    from: frames,
    to: frames,
    format: z.enum(["int16", "int24", "float32"]),
    dither: z.boolean()
  })
]);
export type NewJob = z.infer<typeof newJobSchema>;

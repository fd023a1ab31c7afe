import { z } from "zod";
import { clipSchema, idSchema, stepSchema } from "$lib/core/session/schema";
import type { ResolvedClip } from "$lib/core/session/lookup";

/** A clip with its steps, as a job's order keeps it: as it was when the job was ordered. */
export const storedClip = clipSchema.extend({
  recordingId: idSchema,
  // Orders of older versions know of no chains of recordings.
  recordingFrames: z.number().int().default(0),
  recordingSteps: z.array(stepSchema).default([]),
  steps: z.array(stepSchema)
}) as unknown as z.ZodType<ResolvedClip>;

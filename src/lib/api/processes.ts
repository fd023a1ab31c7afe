// Changing what made a clip's sound, whatever came after it.
import { z } from "zod";
import { idSchema, MAX_STEPS, recipeStepSchema } from "$lib/core/session/schema";

export const newRecomputeSchema = z.object({
  clipId: idSchema,
  changes: z
    .array(
      z.object({
        madeId: idSchema,
        steps: z.array(recipeStepSchema).max(2 * MAX_STEPS),
        below: z
          .number()
          .int()
          .min(0)
          .max(2 * MAX_STEPS)
          .optional()
      })
    )
    .min(1)
    .max(200)
});
export type NewRecompute = z.infer<typeof newRecomputeSchema>;

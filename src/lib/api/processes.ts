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
    .max(200),
  /** Steps that come to the front of the clip's own chain, and ids of those that leave it: moved between it and the last render. */
  own: z
    .object({
      add: z.array(recipeStepSchema).max(MAX_STEPS),
      remove: z.array(idSchema).max(MAX_STEPS)
    })
    .optional()
});
export type NewRecompute = z.infer<typeof newRecomputeSchema>;

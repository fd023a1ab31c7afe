// The level that a batch brings every sound to.
import type { NewBatch } from "$lib/api/batches";
import { defaultParams } from "$lib/core/effects/description";
import { effectOf } from "$lib/core/effects/registry";
import type { RecipeStep } from "$lib/core/session/schema";

export type BatchLevel = NonNullable<NewBatch["level"]>;

/** The step that a level stands for: what is heard as an example is what is done. */
export function levelSteps(level: BatchLevel | null): RecipeStep[] {
  if (!level) return [];
  const effect = effectOf("normalize");
  const { target, levelDb, ceilingDb } = level;
  const own = { target, levelDb, ...(ceilingDb === null ? {} : { ceilingDb }) };
  return [{ effect: effect.id, on: true, params: { ...defaultParams(effect), ...own }, span: null }];
}

// Saved shapes of fades, over the wire and in files.
import { z } from "zod";
import { LONGEST, MOST_TAGS } from "$lib/core/presets/presetsFile";
import { fadeShapeSchema, type FadeShape } from "$lib/core/session/schema";

const namedFadeSchema = z.object({
  name: z.string().trim().min(1, "A fade preset needs a name.").max(80),
  notes: z.string().max(LONGEST.notes).optional(),
  tags: z.array(z.string().trim().min(1).max(LONGEST.tag)).max(MOST_TAGS).optional(),
  shape: fadeShapeSchema
});

/** What people say of a fade preset. */
export const fadeFactsSchema = namedFadeSchema.omit({ shape: true }).partial();
export type FadeFacts = z.infer<typeof fadeFactsSchema>;

/** A file of fade presets, and what is saved at once. */
export const fadePresetsSchema = z.object({
  wring: z.literal("fades"),
  version: z.literal(1),
  fades: z.array(namedFadeSchema).min(1, "It holds no fades.").max(500)
});
export type FadePresetsFile = z.infer<typeof fadePresetsSchema>;

export interface FadePresetView {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
  readonly shape: FadeShape;
}

// Saved shapes of fades, over the wire and in files.
import { z } from "zod";
import { fadeShapeSchema, type FadeShape } from "$lib/core/session/schema";

const namedFadeSchema = z.object({
  name: z.string().trim().min(1, "A fade preset needs a name.").max(80),
  shape: fadeShapeSchema
});

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
  readonly shape: FadeShape;
}

// Saved chains, over the wire.
import { z } from "zod";
import { LONGEST, MOST_TAGS } from "$lib/core/presets/presetsFile";
import {
  MAX_STEPS,
  recordingSchema,
  stepSchema,
  type RecipeStep,
  type Recording
} from "$lib/core/session/schema";

export interface PresetView {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
  /** Whether it comes with Wring: such a one is not changed or deleted. */
  readonly factory: boolean;
  readonly steps: readonly RecipeStep[];
  /** Recordings that its steps ask for; they come along to the project. Their frames are those of their files. */
  readonly recordings: readonly Recording[];
}

const name = z.string().trim().min(1, "A preset needs a name.").max(LONGEST.name);
const notes = z.string().max(LONGEST.notes);
const tags = z.array(z.string().trim().min(1).max(LONGEST.tag)).max(MOST_TAGS);

export const newPresetSchema = z.object({
  name,
  notes,
  tags: tags.default([]),
  steps: z.array(stepSchema).min(1, "A preset needs at least one step.").max(MAX_STEPS),
  recordings: z.array(recordingSchema).max(64),
  /** Whether it takes the place of the saved one of that name. */
  over: z.boolean().default(false)
});

/** What people say of a preset. */
export const presetFactsSchema = z.object({
  name: name.optional(),
  notes: notes.optional(),
  tags: tags.optional()
});
export type PresetFacts = z.infer<typeof presetFactsSchema>;

export const presetsFileTextSchema = z.object({ fileName: z.string().max(255), text: z.string() });

/** What became of a file of presets. */
export interface PresetsAdded {
  readonly added: readonly string[];
  /** A sentence for each that was not taken. */
  readonly faults: readonly string[];
}

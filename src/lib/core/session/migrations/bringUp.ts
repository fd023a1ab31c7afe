// What was stored, as the present version has it: one file a step. A newer version is refused, not guessed at.
import { z } from "zod";
import type { DocumentJson } from "../document";
import {
  DOCUMENT_VERSION,
  recipeStepSchema,
  recordingSchema,
  TABLES,
  type RecipeStep,
  type Recording
} from "../schema";
import { presetFrom1, projectFrom1, type Edit1, type Edit2 } from "./from1to2";
import { document1Schema, preset1Schema, patch1Schema } from "./version1";

/** Why something stored cannot be read, as a sentence's end. */
export class Unreadable extends Error {}

const entity = z.looseObject({ id: z.string() });
const documentSchema = z.looseObject(Object.fromEntries(TABLES.map((table) => [table, z.array(entity)])));

function versionOf(json: unknown): number {
  if (typeof json !== "object" || json === null) throw new Unreadable("it is no object");
  if (Array.isArray(json)) return 1;
  const { version, format } = json as { version?: unknown; format?: unknown };
  if (format === "wring/project/1") return 1;
  if (typeof version !== "number") throw new Unreadable("it does not say its version");
  if (version > DOCUMENT_VERSION)
    throw new Unreadable(`it was made by a newer Wring (version ${version} of the format)`);
  return version;
}

function parsed<S extends z.ZodType>(schema: S, json: unknown): z.infer<S> {
  const read = schema.safeParse(json);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw new Unreadable(`${issue?.path.join(".") ?? ""} ${issue?.message ?? "is not right"}`.trim());
}

const edit1Schema = z.object({
  label: z.string(),
  patches: z.array(patch1Schema),
  inverse: z.array(patch1Schema),
  undone: z.boolean()
});

/**
 * A document of any version, with the edits that were stored beside it in version 1.
 * @throws Unreadable
 */
export function bringUpProject(
  json: unknown,
  edits1: readonly unknown[] = [],
  hashOf: (recordingId: string) => string | null = () => null
): { document: DocumentJson; edits: Edit2[] } {
  if (versionOf(json) === 1) {
    const edits: Edit1[] = edits1.map((edit) => parsed(edit1Schema, edit));
    return projectFrom1(parsed(document1Schema, json), edits, hashOf);
  }
  return { document: parsed(documentSchema, json) as unknown as DocumentJson, edits: [] };
}

/** A preset as it is stored: its steps, and the recordings that they ask for. */
export interface PresetJson {
  readonly version: typeof DOCUMENT_VERSION;
  readonly steps: readonly RecipeStep[];
  readonly recordings: readonly Recording[];
}

const presetSchema = z.looseObject({
  version: z.literal(DOCUMENT_VERSION),
  steps: z.array(recipeStepSchema),
  recordings: z.array(recordingSchema)
});

/** @throws Unreadable */
export function bringUpPreset(json: unknown): PresetJson {
  if (versionOf(json) === 1)
    return { version: DOCUMENT_VERSION, steps: presetFrom1(parsed(preset1Schema, json)), recordings: [] };
  return parsed(presetSchema, json);
}

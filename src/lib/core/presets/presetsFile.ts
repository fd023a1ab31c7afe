// Presets as a file: plain JSON, one or many, with the recordings that they ask for. Its JSON Schema is docs/presets.schema.json.
import { z } from "zod";
import { chainFileSchema, parseChainFile } from "../session/chainFile";
import { recordingsOf } from "../effects/registry";
import { newRecipeStep } from "../session/make";
import type { RecipeStep } from "../session/schema";

export const PRESETS_FORMAT = "presets/1";
export const MOST_TAGS = 20;
/** Longest name, note and tag. */
export const LONGEST = { name: 80, notes: 1000, tag: 40 } as const;

const presetShape = z.looseObject({
  name: z.string().trim().min(1).max(LONGEST.name).describe("What the preset is called."),
  notes: z.string().max(LONGEST.notes).default("").describe("What it is for."),
  tags: z.array(z.string().max(LONGEST.tag)).max(MOST_TAGS).default([]).describe("Words to find it by."),
  steps: z
    .array(z.unknown())
    .describe("The steps, as in a chain file; parameters that are recordings name one of `recordings`.")
});

export const presetsFileSchema = z.looseObject({
  wring: z.literal(PRESETS_FORMAT),
  presets: z.array(z.unknown()).max(1000).describe("Each with `name`, `notes`, `tags` and `steps`."),
  recordings: z
    .array(
      z.looseObject({
        id: z.string().max(64).describe("By which steps name it."),
        name: z.string().max(120),
        wav: z.string().describe("A WAV file, base64.")
      })
    )
    .max(200)
    .default([])
    .describe("The recordings that steps ask for.")
});

export interface FilePreset {
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
  readonly steps: readonly RecipeStep[];
}

export interface FileRecording {
  readonly id: string;
  readonly name: string;
  /** A WAV file, base64. */
  readonly wav: string;
}

export interface PresetsFile {
  readonly presets: readonly FilePreset[];
  readonly recordings: readonly FileRecording[];
  /** A sentence for each preset that cannot be used. */
  readonly faults: readonly string[];
}

/** The JSON Schema of files of presets. Steps are those of chain files. */
export function presetsJsonSchema(): unknown {
  const file = z.strictObject({
    ...presetsFileSchema.shape,
    presets: z.array(presetShape.extend({ steps: chainFileSchema.shape.steps })).max(1000)
  });
  return z.toJSONSchema(file, { io: "input", unrepresentable: "any" });
}

/** One preset of a file. @throws Error that says what is wrong with it */
function readPreset(json: unknown, recordings: ReadonlySet<string>): FilePreset {
  const shape = presetShape.safeParse(json);
  if (!shape.success) {
    const [issue] = shape.error.issues;
    throw new Error(`${issue?.path.map(String).join(".") ?? ""} ${issue?.message ?? "is not right"}`.trim());
  }
  const { name, notes, tags, steps: given } = shape.data;
  const { steps } = parseChainFile(JSON.stringify({ wring: "chain/1", steps: given }));
  if (steps.length === 0) throw new Error("it has no steps");
  const recipe = steps.map((step) => newRecipeStep(step.effect, step.params, step.on));
  const missing = recipe.flatMap(recordingsOf).find((id) => !recordings.has(id));
  if (missing !== undefined) throw new Error(`it needs the recording "${missing}", which is not in the file`);
  return { name, notes, tags: [...new Set(tags)], steps: recipe };
}

const nameOf = (json: unknown, i: number): string => {
  const name = (json as { name?: unknown } | null)?.name;
  return typeof name === "string" && name.trim() !== "" ? `"${name}"` : `Preset ${i + 1}`;
};

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new Error(`is not JSON (${(error as Error).message})`, { cause: error });
  }
}

/**
 * Reads a file of presets, or a chain file as one preset. Presets with faults are told, the others are read.
 * @param fileName by which a chain without a name is called
 * @throws Error when it is no such file
 */
export function parsePresetsFile(text: string, fileName: string): PresetsFile {
  const json = jsonOf(text);
  const kind = (json as { wring?: unknown } | null)?.wring;
  if (kind === "chain/1") {
    const chain = parseChainFile(text);
    const name = chain.name.trim() || fileName.replace(/\.[^.]*$/, "") || "Chain";
    const steps = chain.steps.map((step) => newRecipeStep(step.effect, step.params, step.on));
    if (steps.length === 0) throw new Error("holds a chain without steps");
    if (steps.flatMap(recordingsOf).length > 0)
      throw new Error("is a chain that asks for recordings, which chain files do not carry");
    return {
      presets: [{ name: name.slice(0, LONGEST.name), notes: "", tags: [], steps }],
      recordings: [],
      faults: []
    };
  }
  const read = presetsFileSchema.safeParse(json);
  if (!read.success) throw new Error(`is not a file of presets ("wring": "${PRESETS_FORMAT}")`);
  const { recordings } = read.data;
  const known = new Set(recordings.map(({ id }) => id));
  const presets: FilePreset[] = [];
  const faults: string[] = [];
  read.data.presets.forEach((one, i) => {
    try {
      presets.push(readPreset(one, known));
    } catch (error) {
      faults.push(`${nameOf(one, i)} was not read: ${(error as Error).message}.`);
    }
  });
  return { presets, recordings, faults };
}

/** The text of a file of presets. */
export function presetsFileText(
  presets: readonly FilePreset[],
  recordings: readonly FileRecording[]
): string {
  const plain = presets.map(({ name, notes, tags, steps }) => ({
    name,
    notes,
    tags,
    steps: steps.map(({ effect, on, params }) => ({ effect, on, params }))
  }));
  return `${JSON.stringify({ wring: PRESETS_FORMAT, presets: plain, recordings }, null, 2)}\n`;
}

// Chains as files: plain JSON that people can read, write and exchange. Its JSON Schema is docs/chain.schema.json.
import { z } from "zod";
import { findEffect, firstFault } from "../effects/registry";
import { spanSchema } from "./schema";

export const CHAIN_FORMAT = "chain/1";

const value = z.union([z.number(), z.string(), z.boolean()]);

const stepShape = z.strictObject({
  effect: z.string().describe("Id of an effect; `wring effects` lists them."),
  on: z.boolean().default(true).describe("Whether the step is heard."),
  params: z
    .record(z.string(), value)
    .default({})
    .describe("Values by parameter id; what is left out has its default."),
  span: z
    .strictObject({
      from: z.number().int().min(0).describe("First frame."),
      to: z.number().int().min(1).describe("The frame behind the last."),
      edgeMs: spanSchema.shape.edgeMs
    })
    .refine(({ from, to }) => to > from, "must end after it begins")
    .optional()
    .describe("The stretch of the file that the step treats, in frames; left out: all of it.")
});

export const chainFileSchema = z.strictObject({
  wring: z.literal(CHAIN_FORMAT),
  name: z.string().max(120).default("").describe("What the chain is called."),
  steps: z
    .array(
      stepShape.superRefine((step, context) => {
        const effect = findEffect(step.effect);
        if (!effect) {
          context.addIssue({
            code: "custom",
            path: ["effect"],
            message: `there is no effect named "${step.effect}"`
          });
          return;
        }
        const fault = firstFault(effect, step.params);
        if (fault) context.addIssue({ code: "custom", path: ["params", fault.id], message: fault.why });
      })
    )
    .max(64)
});

export type ChainFile = z.infer<typeof chainFileSchema>;

/** The JSON Schema of chain files. Effects and parameters are checked beyond it when a file is read. */
export function chainJsonSchema(): unknown {
  return z.toJSONSchema(chainFileSchema, { io: "input", unrepresentable: "any" });
}

function pathText(path: readonly PropertyKey[]): string {
  return path
    .map((p, i) => (typeof p === "number" ? `[${p}]` : `${i === 0 ? "" : "."}${String(p)}`))
    .join("");
}

/** Reads a chain file's text. @throws Error whose message is the path of the first fault and what it is: 'steps[0].params.gainDb: must lie …' */
export function parseChainFile(text: string): ChainFile {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new Error(`is not JSON (${(error as Error).message})`, { cause: error });
  }
  const read = chainFileSchema.safeParse(json);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  const where = pathText(issue?.path ?? []);
  const what = issue?.message ?? "is no chain";
  throw new Error(where ? `${where}: ${what}` : what);
}

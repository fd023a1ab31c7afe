// docs/format.md: what is stored and what goes over the wire, from the schemas that check it.
import { z } from "zod";
import { COMMAND_TYPES, commandSchema } from "../src/lib/core/session/commands";
import { chainFileSchema } from "../src/lib/core/session/chainFile";
import {
  DOCUMENT_VERSION,
  MAX_FRAMES,
  recipeStepSchema,
  stepSchema,
  tableSchemas
} from "../src/lib/core/session/schema";
import { editsSchema, newProjectSchema } from "../src/lib/api/types";
import { newPresetSchema } from "../src/lib/api/presets";
import { newJobSchema } from "../src/lib/api/jobs";
import { routes } from "./routes";

interface Schema {
  readonly type?: string | string[];
  readonly description?: string;
  readonly properties?: Record<string, Schema>;
  readonly required?: string[];
  readonly items?: Schema;
  readonly anyOf?: Schema[];
  readonly oneOf?: Schema[];
  readonly enum?: unknown[];
  readonly const?: unknown;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly additionalProperties?: Schema | boolean;
  readonly pattern?: string;
}

function jsonSchema(schema: z.ZodType): Schema {
  return z.toJSONSchema(schema, { io: "input", unrepresentable: "any" }) as Schema;
}

const code = (text: string) => `\`${text}\``;

/** A type in a few words. */
function typeText(schema: Schema): string {
  if (schema.const !== undefined) return code(JSON.stringify(schema.const));
  if (schema.enum) return schema.enum.map((value) => code(JSON.stringify(value))).join(" or ");
  const either = schema.anyOf ?? schema.oneOf;
  if (either) return [...new Set(either.map(typeText))].join(" or ");
  if (schema.type === "array") return `list of ${schema.items ? typeText(schema.items) : "anything"}`;
  if (schema.type === "object") {
    const names = Object.entries(schema.properties ?? {}).map(
      ([name, s]) => `${name}: ${typeText(s).replaceAll("`", "")}`
    );
    return names.length > 0 ? code(`{ ${names.join(", ")} }`).slice(0, 400) : "object";
  }
  const { minimum, maximum } = schema;
  const safe = Number.MAX_SAFE_INTEGER;
  const number = (value: number) => (Math.abs(value) === MAX_FRAMES ? `${value < 0 ? "-" : ""}2^40` : value);
  const from = minimum !== undefined && minimum > -safe ? ` from ${number(minimum)}` : "";
  const to = maximum !== undefined && maximum < safe ? ` to ${number(maximum)}` : "";
  return `${String(schema.type ?? "anything")}${from}${to}`;
}

function table(schema: Schema): string {
  const rows = Object.entries(schema.properties ?? {}).map(([name, field]) => {
    const must = schema.required?.includes(name) ? "" : " (may be left out)";
    return `| ${code(name)} | ${typeText(field)}${must} | ${field.description ?? ""} |`;
  });
  return ["| field | value | |", "| --- | --- | --- |", ...rows].join("\n");
}

function entities(): string {
  return Object.entries(tableSchemas)
    .map(([name, schema]) => `### ${name}\n\n${table(jsonSchema(schema))}`)
    .join("\n\n");
}

function commands(): string {
  const { oneOf = [], anyOf = [] } = jsonSchema(commandSchema);
  const kinds = [...oneOf, ...anyOf];
  // Bundlers list what a module exports in an order of their own.
  return [...COMMAND_TYPES]
    .sort()
    .map((type) => {
      const kind = kinds.find((k) => k.properties?.type?.const === type);
      const fields = Object.entries(kind?.properties ?? {})
        .filter(([name]) => name !== "type")
        .map(([name]) => code(kind?.required?.includes(name) ? name : `${name}?`));
      return `| ${code(type)} | ${fields.join(", ")} |`;
    })
    .join("\n");
}

function http(): string {
  return routes.map(({ method, path, what }) => `| ${method} | ${code(path)} | ${what} |`).join("\n");
}

export function formatPage(): string {
  return `# Formats

Written by \`npm run docs\` from the schemas that check what comes in. Unknown fields of entities are kept.

## The document, version ${DOCUMENT_VERSION}

JSON: \`{ "version": ${DOCUMENT_VERSION}, "project": […], "tracks": […], … }\`, one list of entities a table. Entities name each other by id;
nothing refers to a place in a list. Times are whole samples at the project's rate, levels decibels. Older documents are brought up by
\`core/session/migrations\`.

${entities()}

A step of a chain:

${table(jsonSchema(stepSchema))}

## Changes and commands

What an edit does is a list of changes \`{ table, id, before, after }\`: the entity as it was and as it is, \`null\` where there is none. Read
backwards it is the undo. A command is data; several in one are \`{ "type": "compound", "name", "commands" }\`.

| command | fields |
| --- | --- |
${commands()}

## Chain files and presets

A chain file (${code("npm run wring -- render --chain")}); its JSON Schema is [chain.schema.json](chain.schema.json):

${table(jsonSchema(chainFileSchema))}

A saved preset is \`{ "version": ${DOCUMENT_VERSION}, "steps", "recordings" }\`: its steps without ids, and the recordings that they ask for. A step of it:

${table(jsonSchema(recipeStepSchema))}

## HTTP

Everything lies under the server's own address; requests must come from its own pages. Answers are JSON; a refusal is
\`{ "error": "one sentence." }\` with a status from 400 on.

| | address | |
| --- | --- | --- |
${http()}

Edits are sent as

${table(jsonSchema(editsSchema))}

and answered with \`{ revision, entries, refused }\`: all that was accepted after \`known\`, and a sentence for each edit that was not.
An \`editId\` is applied once, however often it comes. An edit made on an older revision goes on top of the newest when it still can.
The events of a project carry the same entries, the state of jobs, and the condition of recordings.

A new project:

${table(jsonSchema(newProjectSchema))}

A new preset:

${table(jsonSchema(newPresetSchema))}

A job is one of: ${(jsonSchema(newJobSchema).oneOf ?? jsonSchema(newJobSchema).anyOf ?? []).map(typeText).join("; ")}.
`;
}

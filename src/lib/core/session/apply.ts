// Commands: data in, new document and inverse out. Pure; the same in the browser and on the server.
import { applyPatches, enablePatches, produceWithPatches, type Patch } from "immer";
import { z } from "zod";
import * as chain from "./commands/chain";
import * as clips from "./commands/clips";
import { CommandRefused, type CommandKind } from "./commands/command";
import * as project from "./commands/project";
import type { Document } from "./schema";

enablePatches();

const kinds = [...Object.values(clips), ...Object.values(chain), ...Object.values(project)] as const;

type KindOf<T> = T extends CommandKind<infer S> ? z.infer<S> : never;
/** One change of the document, as data. */
export type SingleCommand = KindOf<
  | (typeof clips)[keyof typeof clips]
  | (typeof chain)[keyof typeof chain]
  | (typeof project)[keyof typeof project]
>;
/** Several changes that are one for the user. */
export interface CompoundCommand {
  readonly type: "compound";
  readonly name: string;
  readonly commands: readonly SingleCommand[];
}
export type Command = SingleCommand | CompoundCommand;

const singleSchema = z.discriminatedUnion(
  "type",
  kinds.map((k) => k.schema) as unknown as [z.ZodObject, ...z.ZodObject[]]
);
const compoundSchema = z.object({
  type: z.literal("compound"),
  name: z.string().min(1).max(160),
  commands: z.array(singleSchema).min(1).max(1000)
});
/** Any command as it comes over the wire. */
export const commandSchema = z.union([compoundSchema, singleSchema]) as unknown as z.ZodType<Command>;

const byType = new Map<string, CommandKind<z.ZodType>>(
  kinds.map((k) => [k.schema.shape.type.value, k as unknown as CommandKind<z.ZodType>])
);

function kindOf(command: SingleCommand): CommandKind<z.ZodType> {
  const found = byType.get(command.type);
  if (!found) throw new CommandRefused(`There is no command "${command.type}".`);
  return found;
}

/** What a command did. Patches and inverse are JSON. */
export interface Applied {
  readonly document: Document;
  readonly label: string;
  readonly patches: Patch[];
  readonly inverse: Patch[];
}

/** Name of a command for undo, before it is applied. */
export function commandLabel(document: Document, command: Command): string {
  return command.type === "compound" ? command.name : kindOf(command).label(command, document);
}

/**
 * Applies a command to a document; the document is not changed.
 * @throws CommandRefused with a sentence when it names what is not there or would break the document.
 */
export function applyCommand(document: Document, command: Command): Applied {
  const label = commandLabel(document, command);
  const list = command.type === "compound" ? command.commands : [command];
  const [next, patches, inverse] = produceWithPatches(document, (draft) => {
    for (const one of list) kindOf(one).apply(draft as Document, one);
  });
  return { document: next, label, patches, inverse };
}

/** Applies stored patches: an undo (inverse) or a redo (patches). */
export function applyStored(document: Document, patches: Patch[]): Document {
  return applyPatches(document, patches);
}

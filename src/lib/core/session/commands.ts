// Every kind of command, and how one is applied. Pure; the same in the browser and on the server.
import { z } from "zod";
import { changedFields, entityName, type Change } from "./changes";
import * as chain from "./commands/chain";
import * as clips from "./commands/clips";
import * as crossfades from "./commands/crossfades";
import * as cutting from "./commands/cutting";
import type { CommandKind, Touched } from "./commands/command";
import * as links from "./commands/links";
import * as placing from "./commands/placing";
import * as project from "./commands/project";
import * as spans from "./commands/spans";
import * as versions from "./commands/versions";
import type { Document } from "./document";
import { Draft } from "./draft";
import { CommandRefused } from "./refused";
import type { Tables } from "./tables";
import { changesFault } from "./validate";

const kinds = [
  ...Object.values(clips),
  ...Object.values(placing),
  ...Object.values(cutting),
  ...Object.values(crossfades),
  ...Object.values(chain),
  ...Object.values(spans),
  ...Object.values(links),
  ...Object.values(versions),
  ...Object.values(project)
] as const;

type KindOf<T> = T extends CommandKind<infer S> ? z.infer<S> : never;
/** One change of the document, as data. */
export type SingleCommand = KindOf<
  | (typeof clips)[keyof typeof clips]
  | (typeof placing)[keyof typeof placing]
  | (typeof cutting)[keyof typeof cutting]
  | (typeof crossfades)[keyof typeof crossfades]
  | (typeof chain)[keyof typeof chain]
  | (typeof spans)[keyof typeof spans]
  | (typeof links)[keyof typeof links]
  | (typeof versions)[keyof typeof versions]
  | (typeof project)[keyof typeof project]
>;
/** Several changes that are one for the user. */
export interface CompoundCommand {
  readonly type: "compound";
  readonly name: string;
  readonly commands: readonly SingleCommand[];
}
export type Command = SingleCommand | CompoundCommand;

/** Names of all kinds of single commands. */
export const COMMAND_TYPES: readonly SingleCommand["type"][] = kinds.map((k) => k.schema.shape.type.value);

/** Longest name of a compound. */
const MOST_NAME = 160;

const singleSchema = z.discriminatedUnion(
  "type",
  kinds.map((k) => k.schema) as unknown as [z.ZodObject, ...z.ZodObject[]]
);
const compoundSchema = z.object({
  type: z.literal("compound"),
  name: z.string().min(1).max(MOST_NAME),
  commands: z.array(singleSchema).min(1).max(5000)
});
/** Any command as it comes over the wire. */
export const commandSchema = z.discriminatedUnion("type", [
  compoundSchema,
  ...kinds.map((k) => k.schema)
] as unknown as [z.ZodObject, ...z.ZodObject[]]) as unknown as z.ZodType<Command>;

const byType = new Map<string, CommandKind<z.ZodType>>(
  kinds.map((k) => [k.schema.shape.type.value, k as unknown as CommandKind<z.ZodType>])
);

function kindOf(command: SingleCommand): CommandKind<z.ZodType> {
  const found = byType.get(command.type);
  if (!found) throw new CommandRefused(`There is no command "${command.type}".`);
  return found;
}

/** The single commands of a command, in order. */
export function singles(command: Command): readonly SingleCommand[] {
  return command.type === "compound" ? command.commands : [command];
}

/** What undo calls a command that is to be made. @throws CommandRefused */
export function labelOf(command: Command, document: Tables): string {
  return command.type === "compound" ? command.name : kindOf(command).label(command, document);
}

/**
 * Commands that are one for the user: undefined for none, one alone as it is.
 * @param name what undo calls them; made from the first when left out
 */
export function asOne(
  commands: readonly SingleCommand[],
  document: Tables,
  name?: string
): Command | undefined {
  const [first] = commands;
  if (!first || commands.length === 1) return first;
  const text = name ?? `${labelOf(first, document)}, and ${commands.length - 1} more`;
  return { type: "compound", name: text.slice(0, MOST_NAME), commands };
}

/** What a command did. */
export interface Applied {
  readonly document: Document;
  /** What undo calls it. */
  readonly label: string;
  /** Each changed entity once; empty when all is as it was. */
  readonly changes: readonly Change[];
}

/**
 * Applies a command to a document.
 * @throws CommandRefused with a sentence when it names what is not there or would break the document
 */
export function applyCommand(document: Document, command: Command): Applied {
  const draft = new Draft(document);
  const label = labelOf(command, document);
  for (const one of singles(command)) kindOf(one).apply(draft, one);
  const changes = draft.changes();
  return { document: applyChanges(document, changes), label, changes };
}

/**
 * The document with changes: a command's, or stored ones of an undo or a redo.
 * @throws CommandRefused when they would break it
 */
export function applyChanges(document: Document, changes: readonly Change[]): Document {
  const next = document.with(changes);
  const fault = changesFault(next, changes);
  if (fault) throw new CommandRefused(`That cannot be: ${fault}.`);
  return next;
}

/** The changes that take a command's changes back. */
export function inverseOf(command: Command, changes: readonly Change[]): Change[] {
  const [first] = singles(command);
  return first ? kindOf(first).invert(changes) : [];
}

/** What a command needs unchanged since it was made. */
export function touchedBy(command: Command, document: Tables): Touched[] {
  return singles(command).flatMap((one) => {
    try {
      return kindOf(one).touches(one, document);
    } catch (error) {
      // What it names is gone: applying it says so.
      if (error instanceof CommandRefused) return [];
      throw error;
    }
  });
}

/** The sentence for a command whose ground others changed since it was made; undefined when they did not. */
export function conflictWith(touched: readonly Touched[], others: readonly Change[]): string | undefined {
  for (const { table, id, before, after: now } of others) {
    const hit = touched.find((t) => t.table === table && t.id === id);
    if (!hit) continue;
    const { fields } = hit;
    if (fields && !changedFields(before, now).some((field) => fields.includes(field))) continue;
    return `${entityName(table, now ?? before)} was changed elsewhere meanwhile; the screen shows it as it is now.`;
  }
  return undefined;
}

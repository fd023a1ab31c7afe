import type { z } from "zod";
import type { Document } from "../schema";

/** Why a command cannot be carried out: one sentence for the user. */
export class CommandRefused extends Error {}

/** One kind of command: its data, the name that undo shows, and what it does to a draft of the document. */
export interface CommandKind<S extends z.ZodType> {
  readonly schema: S;
  label(command: z.infer<S>, before: Document): string;
  /** @throws CommandRefused */
  apply(draft: Document, command: z.infer<S>): void;
}

/** Keeps the types of a kind together. */
export function kind<S extends z.ZodType>(definition: CommandKind<S>): CommandKind<S> {
  return definition;
}

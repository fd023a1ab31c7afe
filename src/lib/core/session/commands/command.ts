import type { z } from "zod";
import { invert, type Change } from "../changes";
import type { Draft } from "../draft";
import type { TableName } from "../schema";
import type { Tables } from "../tables";

/** An entity, or some fields of it, that a command was made for as it was. */
export interface Touched {
  readonly table: TableName;
  readonly id: string;
  /** All of it when left out. */
  readonly fields?: readonly string[];
}

/** One kind of command: its data, the name that undo shows, what it does, how that is taken back, and what must not have changed since it was made. */
export interface CommandKind<S extends z.ZodType> {
  readonly schema: S;
  label(command: z.infer<S>, before: Tables): string;
  /** @throws CommandRefused */
  apply(draft: Draft, command: z.infer<S>): void;
  invert(changes: readonly Change[]): Change[];
  /** What another page may not have changed meanwhile; with anything else the command goes on top of what others did. */
  touches(command: z.infer<S>, before: Tables): Touched[];
}

type Definition<S extends z.ZodType> = Omit<CommandKind<S>, "invert" | "touches"> &
  Partial<Pick<CommandKind<S>, "touches">>;

/** Keeps the types of a kind together. Its changes are taken back as they are, and it needs nothing unchanged, unless said. */
export function kind<S extends z.ZodType>(definition: Definition<S>): CommandKind<S> {
  return { invert, touches: () => [], ...definition };
}

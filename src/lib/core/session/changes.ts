// What a command does to a document, as data: each changed entity as it was and as it is. Read backwards it is the undo.
import { CommandRefused } from "./refused";
import { alike } from "./equal";
import type { Tables } from "./tables";
import type { Entity, TableName } from "./schema";

/** One changed entity. `before` null: it is new; `after` null: it is gone. */
export interface Change {
  readonly table: TableName;
  readonly id: string;
  readonly before: Entity | null;
  readonly after: Entity | null;
}

/** The same changes backwards. */
export function invert(changes: readonly Change[]): Change[] {
  return changes
    .map(({ table, id, before, after }) => ({ table, id, before: after, after: before }))
    .reverse();
}

const WHAT: Record<TableName, string> = {
  project: "The project",
  tracks: "The track",
  clips: "The clip",
  chains: "The chain",
  recordings: "The recording",
  sections: "The section"
};

/** What an entity is called in a sentence: its name where it has one. */
export function entityName(table: TableName, entity: Entity | null | undefined): string {
  return entity && "name" in entity ? `"${entity.name}"` : WHAT[table];
}

/** Fields in which two states of an entity differ. */
export function changedFields(before: Entity | null, after: Entity | null): string[] {
  const a = (before ?? {}) as Record<string, unknown>;
  const b = (after ?? {}) as Record<string, unknown>;
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((key) => !alike(a[key], b[key]));
}

/**
 * Stored changes as they fit a document that may have gone on since: a field that they change must still be what it was; others
 * keep what they have become.
 * @throws CommandRefused naming the entity that no longer fits
 */
export function rebased(doc: Tables, changes: readonly Change[]): Change[] {
  return changes.flatMap((change) => {
    const now = doc.get(change.table, change.id) ?? null;
    if (alike(now, change.after)) return [];
    if (alike(now, change.before)) return [{ ...change, before: now }];
    if (!now || !change.before || !change.after) throw moved(change, now);
    const merged: Record<string, unknown> = { ...now };
    for (const field of changedFields(change.before, change.after)) {
      const was = (change.before as Record<string, unknown>)[field];
      const is = (now as Record<string, unknown>)[field];
      const to = (change.after as Record<string, unknown>)[field];
      if (!alike(is, was) && !alike(is, to)) throw moved(change, now);
      merged[field] = to;
    }
    const known = Object.entries(merged).filter(([, value]) => value !== undefined);
    return [{ ...change, before: now, after: Object.fromEntries(known) as unknown as Entity }];
  });
}

function moved({ table, before, after }: Change, now: Entity | null): CommandRefused {
  const name = entityName(table, now ?? before ?? after);
  return new CommandRefused(now ? `${name} has been changed since.` : `${name} is no longer there.`);
}

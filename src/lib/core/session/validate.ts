// Whether entities are what their schemas say and fit together: at the border for what a change touches, as a whole when a project is opened.
import type { z } from "zod";
import { entityName, type Change } from "./changes";
import type { Document } from "./document";
import { referencesOf } from "./references";
import { TABLES, tableSchemas, type Clip, type Entity, type TableName } from "./schema";

const MOST: Partial<Record<TableName, number>> = { project: 1, tracks: 200, sections: 500, clips: 100000 };

const WHAT: Record<TableName, string> = {
  project: "project",
  tracks: "track",
  clips: "clip",
  chains: "chain",
  recordings: "recording",
  sections: "section"
};

function shapeFault(table: TableName, entity: Entity): string | undefined {
  const parsed = (tableSchemas[table] as z.ZodType).safeParse(entity);
  if (parsed.success) return undefined;
  const [issue] = parsed.error.issues;
  const where = issue?.path.join(".") ?? "";
  return `${entityName(table, entity)}: ${where ? `${where} ` : ""}${issue?.message ?? "is not right"}`;
}

function windowFault(doc: Document, clip: Clip): string | undefined {
  const recording = doc.get("recordings", clip.content.recordingId);
  if (!recording) return undefined;
  return clip.offset + clip.length > recording.frames
    ? `"${clip.name}" would reach beyond the end of its recording`
    : undefined;
}

function presenceFault(doc: Document, table: TableName, entity: Entity): string | undefined {
  for (const reference of referencesOf(table, entity))
    if (!doc.get(reference.table, reference.id))
      return `${entityName(table, entity)} needs a ${WHAT[reference.table]} that is not there`;
  return table === "clips" ? windowFault(doc, entity as Clip) : undefined;
}

/** First fault of a changed document in what was changed, as a sentence without its full stop; undefined when it is sound. */
export function changesFault(after: Document, changes: readonly Change[]): string | undefined {
  for (const { table, id, before, after: entity } of changes) {
    if (entity && entity.id !== id) return `${entityName(table, entity)} is not the entity that it says`;
    const fault = entity
      ? (shapeFault(table, entity) ?? presenceFault(after, table, entity))
      : after.uses(table, id) > 0
        ? `${entityName(table, before)} is still used`
        : undefined;
    if (fault) return fault;
    const most = MOST[table];
    if (!before && most !== undefined && after.size(table) > most)
      return `A project has at most ${most} ${WHAT[table]}s`;
  }
  return after.get("project", "project") ? undefined : "The project's own entry is missing";
}

/** First fault of a whole document. Costs as much as it holds. */
export function documentFault(doc: Document): string | undefined {
  const all = TABLES.flatMap((table) =>
    [...doc.values(table)].map((entity) => ({ table, id: entity.id, before: entity, after: entity }))
  );
  return changesFault(doc, all);
}

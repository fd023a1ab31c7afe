// Reading whole projects through in the background, a little at a time, so that no one waits for it.
import { setImmediate } from "node:timers/promises";
import type { Change } from "$lib/core/session/changes";
import { Document } from "$lib/core/session/document";
import { DOCUMENT_VERSION, TABLES, type Entity, type TableName } from "$lib/core/session/schema";
import { changesFault } from "$lib/core/session/validate";
import { database, write } from "../db/connection";
import { entitySlice } from "../db/entityRows";
import type { ProjectRow } from "../db/models";

const AT_ONCE = 200;

/** Why a project cannot be opened, as a sentence; null when it can. */
async function projectFault(row: ProjectRow): Promise<string | null> {
  const lists = Object.fromEntries(TABLES.map((table) => [table, []])) as unknown as Record<
    TableName,
    never[]
  >;
  let document = Document.fromJson({ version: DOCUMENT_VERSION, ...lists });
  const slices: Change[][] = [];
  let after = { tableName: "", id: "" };
  try {
    for (;;) {
      const rows = await entitySlice(row.id, after, AT_ONCE);
      const last = rows.at(-1);
      if (!last) break;
      after = { tableName: last.tableName, id: last.id };
      const slice = rows
        .filter(({ tableName }) => tableName in lists)
        .map(({ tableName, id, json }): Change => {
          const entity = JSON.parse(json) as Entity;
          return { table: tableName as TableName, id, before: entity, after: entity };
        });
      document = document.with(slice.map((change) => ({ ...change, before: null })));
      slices.push(slice);
    }
    for (const slice of slices) {
      const fault = changesFault(document, slice);
      if (fault) throw new Error(fault);
      await setImmediate();
    }
    return null;
  } catch (error) {
    return `"${row.name}" cannot be opened: ${(error as Error).message}.`;
  }
}

/** Revisions that have been checked, by project. */
const checked = new Map<string, number>();

/** Reads every project that has not been checked since it was changed, and notes why one cannot be opened. Returns how many it read. */
export async function checkProjects(signal: AbortSignal): Promise<number> {
  const { models } = await database();
  let count = 0;
  for (const row of await models.Project.findAll({ where: { deletedAt: null } })) {
    if (signal.aborted) break;
    if (checked.get(row.id) === row.revision) continue;
    const fault = await projectFault(row);
    const now = await models.Project.findByPk(row.id, { attributes: ["id", "revision", "fault"] });
    // It was changed while it was read: what was seen is no state of it.
    if (!now || now.revision !== row.revision) continue;
    if (fault !== now.fault)
      await write((_, transaction) => now.update({ fault }, { transaction, silent: true }));
    checked.set(row.id, row.revision);
    count++;
  }
  return count;
}

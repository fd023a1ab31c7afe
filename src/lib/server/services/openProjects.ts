// Documents of the projects that are worked on, in memory: the rows are read once, when a project is opened.
import type { Transaction } from "sequelize";
import { Document, type DocumentJson } from "$lib/core/session/document";
import { DOCUMENT_VERSION, TABLES, type TableName } from "$lib/core/session/schema";
import { documentFault } from "$lib/core/session/validate";
import type { Models, ProjectRow } from "../db/models";
import { entityRows } from "../db/entityRows";
import { UserFault } from "../faults";

export interface OpenProject {
  readonly document: Document;
  readonly revision: number;
  readonly lengthFrames: number;
  /** Whether there are undone edits that redo could bring again; true when that is not known. */
  readonly redoable: boolean;
}

// Least recently used first.
const open = new Map<string, OpenProject>();
const MOST_OPEN = 12;

/** Notes a project's newest state. Call it when the state is in the database. */
export function keepOpen(id: string, project: OpenProject): void {
  open.delete(id);
  open.set(id, project);
  if (open.size > MOST_OPEN) {
    const [oldest] = open.keys();
    if (oldest !== undefined) open.delete(oldest);
  }
}

/** Forgets a project's state; the next use reads it anew. */
export function closeProject(id: string): void {
  open.delete(id);
}

export function closeAllProjects(): void {
  open.clear();
}

/** A row's document from its entities. @throws UserFault 422 saying why it cannot be opened */
async function read(row: ProjectRow, transaction?: Transaction): Promise<Document> {
  try {
    if (row.version > DOCUMENT_VERSION) throw new Error("it was made by a newer Wring");
    const lists: Record<string, unknown[]> = Object.fromEntries(TABLES.map((table) => [table, []]));
    for (const { tableName, json } of await entityRows(row.id, transaction))
      lists[tableName as TableName]?.push(JSON.parse(json));
    const json = { ...(JSON.parse(row.rest) as object), version: DOCUMENT_VERSION, ...lists };
    const document = Document.fromJson(json as unknown as DocumentJson);
    const fault = documentFault(document);
    if (fault) throw new Error(fault);
    return document;
  } catch (error) {
    throw new UserFault(422, `"${row.name}" cannot be opened: ${(error as Error).message}.`);
  }
}

/**
 * A project's newest state.
 * @throws UserFault 404 when there is none, 422 when it cannot be read
 */
export async function openProject(
  models: Models,
  id: string,
  transaction?: Transaction
): Promise<OpenProject> {
  const known = open.get(id);
  if (known) return known;
  const row = await models.Project.findByPk(id, { transaction });
  if (!row || row.deletedAt) throw new UserFault(404, "There is no such project. It may have been deleted.");
  const document = await read(row, transaction);
  const project = {
    document,
    revision: row.revision,
    lengthFrames: Number(row.lengthFrames),
    redoable: true
  };
  // An edit that was confirmed meanwhile is newer.
  if ((open.get(id)?.revision ?? -1) < project.revision) keepOpen(id, project);
  return open.get(id) ?? project;
}

// Documents of the projects that are worked on, in memory: the rows are read once, when a project is opened.
import type { Transaction } from "sequelize";
import type { Document } from "$lib/core/session/document";
import type { Models, ProjectRow } from "../db/models";
import { entityRows } from "../db/entityRows";
import { documentOfRows } from "../db/projectRows";
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
    return documentOfRows(row, await entityRows(row.id, transaction));
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

import { randomUUID } from "node:crypto";
import { emptyDocument, programmeEnd } from "$lib/core/session/document";
import { documentSchema, type Document } from "$lib/core/session/schema";
import type { ProjectState, ProjectSummary } from "$lib/api/types";
import type { Transaction } from "sequelize";
import { database, write } from "../db/connection";
import type { Models, ProjectRow } from "../db/models";
import { UserFault } from "../faults";

function parse(row: ProjectRow): Document {
  return documentSchema.parse(JSON.parse(row.document));
}

/** All projects, last changed first. */
export async function listProjects(): Promise<ProjectSummary[]> {
  const { models } = await database();
  const rows = await models.Project.findAll({ order: [["updatedAt", "DESC"]] });
  return rows.map((row) => {
    const doc = parse(row);
    return {
      id: row.id,
      name: doc.name,
      lengthSeconds: programmeEnd(doc) / doc.sampleRate,
      tracks: doc.tracks.length,
      sampleRate: doc.sampleRate,
      changedAt: row.updatedAt.toISOString()
    };
  });
}

/** Makes an empty project. Returns its id. */
export async function createProject(name: string, sampleRate: Document["sampleRate"]): Promise<string> {
  return storeProject(emptyDocument(name, sampleRate));
}

/** Stores a ready-made document as a new project. */
export async function storeProject(document: Document): Promise<string> {
  const id = randomUUID();
  await write((models, transaction) =>
    models.Project.create({ id, document: JSON.stringify(document), revision: 0 }, { transaction })
  );
  return id;
}

/** Deletes a project and its history. Recordings stay in the media store. */
export async function deleteProject(id: string): Promise<void> {
  await write(async (models, transaction) => {
    await models.Edit.destroy({ where: { projectId: id }, transaction });
    const gone = await models.Project.destroy({ where: { id }, transaction });
    if (gone === 0) throw new UserFault(404, "There is no such project.");
  });
}

/** Row and document of a project. @throws UserFault 404 */
export async function loadProject(
  models: Models,
  id: string,
  transaction?: Transaction
): Promise<{ row: ProjectRow; document: Document }> {
  const row = await models.Project.findByPk(id, { transaction });
  if (!row) throw new UserFault(404, "There is no such project. It may have been deleted.");
  return { row, document: parse(row) };
}

/** The true state of a project. */
export async function projectState(
  id: string,
  within?: { models: Models; transaction: Transaction }
): Promise<ProjectState> {
  const models = within?.models ?? (await database()).models;
  const transaction = within?.transaction;
  const { row, document } = await loadProject(models, id, transaction);
  const latest = await models.Edit.findOne({
    where: { projectId: id, undone: false },
    order: [["id", "DESC"]],
    transaction
  });
  const next = await models.Edit.findOne({
    where: { projectId: id, undone: true },
    order: [["id", "ASC"]],
    transaction
  });
  return { id, revision: row.revision, document, undo: latest?.label ?? null, redo: next?.label ?? null };
}

import { BIN_DAYS } from "$lib/api/space";
import { randomUUID } from "node:crypto";
import { Op, type Transaction } from "sequelize";
import type { Document } from "$lib/core/session/document";
import { emptyDocument } from "$lib/core/session/make";
import type { Project } from "$lib/core/session/schema";
import type { ProjectState, ProjectSummary } from "$lib/api/types";
import { database, write } from "../db/connection";
import type { ProjectFile } from "../archive/contents";
import { editsInState, insertEdits, insertEntities } from "../db/entityRows";
import type { Models, ProjectRow } from "../db/models";
import { projectRows } from "../db/projectRows";
import { unreadableProjects } from "../db/unreadable";
import { UserFault } from "../faults";
import { closeProject, openProject, type OpenProject } from "./openProjects";
import { brokenAmong, registerRecordings, type NewRecording } from "./recordings";

/** Edits that a page is told of when it opens: so far its undo names them. */
const TOLD_EDITS = 200;
/** Days that a deleted project stays in the bin. */

function summary(row: ProjectRow): ProjectSummary {
  return {
    id: row.id,
    name: row.name,
    lengthSeconds: Number(row.lengthFrames) / row.sampleRate,
    tracks: row.tracks,
    sampleRate: row.sampleRate,
    changedAt: row.updatedAt.toISOString(),
    fault: row.fault,
    deletedAt: row.deletedAt?.toISOString() ?? null
  };
}

/** All projects, last changed first: those that cannot be read with the reason, those in the bin with the day. */
export async function listProjects(): Promise<ProjectSummary[]> {
  const { models } = await database();
  const rows = await models.Project.findAll({ order: [["updatedAt", "DESC"]] });
  return [...rows.map(summary), ...(await unreadableProjects())];
}

/** Makes an empty project. Returns its id. */
export async function createProject(name: string, sampleRate: Project["sampleRate"]): Promise<string> {
  return storeProject(emptyDocument(name, sampleRate));
}

/** Stores a ready-made document as a new project. */
export async function storeProject(document: Document): Promise<string> {
  const id = randomUUID();
  const { row, entities } = projectRows(id, document.toJson());
  await write(async (models, transaction) => {
    await models.Project.create(row, { transaction });
    await insertEntities(
      id,
      entities.map(({ tableName, json }) => ({ tableName, json })),
      transaction
    );
  });
  return id;
}

/**
 * Stores a project of an archive with its history, and notes its recordings, whose files are in the store. Doing it again changes nothing.
 * Returns its id.
 */
export async function storeArchived(
  id: string,
  { document, edits }: ProjectFile,
  recordings: readonly NewRecording[]
): Promise<string> {
  const { row, entities } = projectRows(id, document);
  const revision = edits.reduce((most, edit) => Math.max(most, edit.revision), 0);
  await write(async (models, transaction) => {
    if (await models.Project.findByPk(id, { transaction })) return;
    await registerRecordings(models, transaction, recordings);
    await models.Project.create({ ...row, revision }, { transaction });
    await insertEntities(
      id,
      entities.map(({ tableName, json }) => ({ tableName, json })),
      transaction
    );
    await insertEdits(id, edits, transaction);
  });
  return id;
}

/** Puts a project into the bin: it and its history stay for 30 days. */
export async function deleteProject(id: string): Promise<void> {
  await change(id, { deletedAt: new Date() }, { deletedAt: null });
  closeProject(id);
}

/** Takes a project out of the bin. */
export async function restoreProject(id: string): Promise<void> {
  await change(id, { deletedAt: null }, { deletedAt: { [Op.not]: null } });
}

async function change(
  id: string,
  values: { deletedAt: Date | null },
  where: Record<string, unknown>
): Promise<void> {
  await write(async (models, transaction) => {
    // Being deleted is no change of the project: the time of its last one stays.
    const [count] = await models.Project.update(values, {
      where: { id, ...where },
      transaction,
      silent: true
    });
    if (count === 0) throw new UserFault(404, "There is no such project.");
  });
}

/** Removes a project and its history for good. It must be in the bin. */
export async function destroyProject(id: string): Promise<void> {
  await write(async (models, transaction) => {
    const gone = await models.Project.destroy({
      where: { id, deletedAt: { [Op.not]: null } },
      transaction
    });
    if (gone === 0) throw new UserFault(404, "There is no such project in the bin.");
  });
  closeProject(id);
}

/** Removes what has lain in the bin for 30 days. */
export async function emptyOldBin(now = Date.now()): Promise<number> {
  const before = new Date(now - BIN_DAYS * 86400000);
  return write((models, transaction) =>
    models.Project.destroy({ where: { deletedAt: { [Op.lt]: before } }, transaction })
  );
}

/** @throws UserFault 404 */
export async function loadProject(id: string, transaction?: Transaction): Promise<OpenProject> {
  const { models } = await database();
  return openProject(models, id, transaction);
}

/** Whether there is such a project that can be worked on, without reading it. @throws UserFault 404 */
export async function needProject(id: string, models?: Models): Promise<void> {
  const known = models ?? (await database()).models;
  const count = await known.Project.count({ where: { id, deletedAt: null } });
  if (count === 0) throw new UserFault(404, "There is no such project. It may have been deleted.");
}

/** Name of a project that is there, without reading the rest. @throws UserFault 404 */
export async function projectName(id: string): Promise<string> {
  const { models } = await database();
  const row = await models.Project.findOne({ where: { id, deletedAt: null }, attributes: ["name"] });
  if (!row) throw new UserFault(404, "There is no such project. It may have been deleted.");
  return row.name;
}

/** The whole of a project, for a page that opens it. */
export async function projectState(id: string): Promise<ProjectState> {
  const { document, revision } = await loadProject(id);
  const [undo, redo, broken] = await Promise.all([
    editsInState(id, "done", TOLD_EDITS),
    editsInState(id, "undone", TOLD_EDITS),
    brokenAmong(document)
  ]);
  return { id, revision, document: document.toJson(), history: { undo, redo }, broken };
}

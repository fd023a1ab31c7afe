import type { Patch } from "immer";
import type { Transaction } from "sequelize";
import { applyCommand, applyStored, type Command } from "$lib/core/session/apply";
import { CommandRefused } from "$lib/core/session/commands/command";
import { documentSchema, type Document } from "$lib/core/session/schema";
import type { ProjectState } from "$lib/api/types";
import { write } from "../db/connection";
import type { Models, ProjectRow } from "../db/models";
import { publish } from "../events";
import { UserFault } from "../faults";
import { loadProject, projectState } from "./projects";

function needRevision(row: ProjectRow, revision: number): void {
  if (row.revision !== revision)
    throw new UserFault(
      409,
      "The project was changed elsewhere meanwhile; the screen now shows its true state."
    );
}

async function store(row: ProjectRow, document: Document, transaction: Transaction): Promise<void> {
  const checked = documentSchema.safeParse(document);
  if (!checked.success)
    throw new UserFault(422, `The change would break the project: ${checked.error.issues[0].message}.`);
  row.document = JSON.stringify(document);
  row.revision += 1;
  row.changed("updatedAt", true);
  await row.save({ transaction });
}

async function apply(
  models: Models,
  transaction: Transaction,
  projectId: string,
  command: Command,
  revision?: number
): Promise<ProjectState> {
  const { row, document } = await loadProject(models, projectId, transaction);
  if (revision !== undefined) needRevision(row, revision);
  const applied = applyCommand(document, command);
  await store(row, applied.document, transaction);
  await models.Edit.destroy({ where: { projectId, undone: true }, transaction });
  await models.Edit.create(
    {
      projectId,
      label: applied.label,
      command: JSON.stringify(command),
      patches: JSON.stringify(applied.patches),
      inverse: JSON.stringify(applied.inverse),
      undone: false
    },
    { transaction }
  );
  return projectState(projectId, { models, transaction });
}

async function changing(
  projectId: string,
  work: (models: Models, transaction: Transaction) => Promise<ProjectState>
): Promise<ProjectState> {
  try {
    const state = await write(work);
    publish(projectId, { type: "document", revision: state.revision });
    return state;
  } catch (error) {
    if (error instanceof CommandRefused) throw new UserFault(422, error.message);
    throw error;
  }
}

/** Applies a user's command to the revision that the user saw. @throws UserFault 409 when that is no longer the newest, 422 when it cannot be */
export function edit(projectId: string, revision: number, command: Command): Promise<ProjectState> {
  return changing(projectId, (models, t) => apply(models, t, projectId, command, revision));
}

/** Applies a command of a finished job to whatever the newest revision is. */
export function editNewest(projectId: string, command: Command): Promise<ProjectState> {
  return changing(projectId, (models, t) => apply(models, t, projectId, command));
}

/** Takes the last edit back, or brings the last undone one again. */
export function stepThroughHistory(
  projectId: string,
  revision: number,
  direction: "undo" | "redo"
): Promise<ProjectState> {
  return changing(projectId, async (models, transaction) => {
    const { row, document } = await loadProject(models, projectId, transaction);
    needRevision(row, revision);
    const back = direction === "undo";
    const step = await models.Edit.findOne({
      where: { projectId, undone: !back },
      order: [["id", back ? "DESC" : "ASC"]],
      transaction
    });
    if (!step) throw new UserFault(422, `There is nothing to ${direction}.`);
    const patches = JSON.parse(back ? step.inverse : step.patches) as Patch[];
    await store(row, applyStored(document, patches), transaction);
    step.undone = back;
    await step.save({ transaction });
    return projectState(projectId, { models, transaction });
  });
}

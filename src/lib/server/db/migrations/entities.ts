// Version 2: a project's entities are rows, its edits are changes. Projects that cannot be carried over stay in the old tables, unharmed.
import { QueryTypes, type QueryInterface } from "sequelize";
import { bringUpProject } from "$lib/core/session/migrations/bringUp";
import { log } from "../../log";
import { projectRows } from "../projectRows";

const text = "TEXT NOT NULL";

const TABLES = [
  "ALTER TABLE projects RENAME TO projects_1",
  "ALTER TABLE edits RENAME TO edits_1",
  "DROP INDEX IF EXISTS edits_project_id_undone",
  `CREATE TABLE projects (
    id VARCHAR(64) PRIMARY KEY, name ${text}, sampleRate INTEGER NOT NULL, tracks INTEGER NOT NULL,
    lengthFrames BIGINT NOT NULL, revision INTEGER NOT NULL, version INTEGER NOT NULL, rest ${text},
    fault TEXT, deletedAt DATETIME, createdAt DATETIME NOT NULL, updatedAt DATETIME NOT NULL)`,
  `CREATE TABLE entities (
    projectId VARCHAR(64) NOT NULL REFERENCES projects(id) ON DELETE CASCADE,
    tableName ${text}, id ${text}, json ${text}, PRIMARY KEY (projectId, tableName, id)) WITHOUT ROWID`,
  `CREATE TABLE edits (
    projectId VARCHAR(64) NOT NULL REFERENCES projects(id) ON DELETE CASCADE,
    revision INTEGER NOT NULL, editId ${text}, kind ${text}, target TEXT, label ${text}, page TEXT, job TEXT,
    changes ${text}, state ${text}, stateAt INTEGER NOT NULL, version INTEGER NOT NULL, createdAt DATETIME NOT NULL,
    PRIMARY KEY (projectId, revision)) WITHOUT ROWID`,
  "CREATE UNIQUE INDEX edits_by_id ON edits (projectId, editId)",
  "CREATE INDEX edits_by_state ON edits (projectId, state, stateAt)",
  "ALTER TABLE recordings ADD COLUMN state TEXT NOT NULL DEFAULT 'good'",
  "ALTER TABLE recordings ADD COLUMN checkedAt DATETIME",
  "ALTER TABLE recordings ADD COLUMN unusedSince DATETIME",
  "ALTER TABLE jobs ADD COLUMN endedAt DATETIME"
];

interface Project1 {
  readonly id: string;
  readonly document: string;
  readonly revision: number;
  readonly createdAt: string;
  readonly updatedAt: string;
}

interface EditRow1 {
  readonly label: string;
  readonly patches: string;
  readonly inverse: string;
  readonly undone: number;
}

async function carry(
  q: QueryInterface,
  project: Project1,
  hashes: ReadonlyMap<string, string>
): Promise<void> {
  const { sequelize } = q;
  const replacements = { id: project.id };
  const rows = await sequelize.query<EditRow1>(
    "SELECT label, patches, inverse, undone FROM edits_1 WHERE projectId = :id ORDER BY id",
    { type: QueryTypes.SELECT, replacements }
  );
  const edits = rows.map(({ label, patches, inverse, undone }) => ({
    label,
    patches: JSON.parse(patches) as unknown,
    inverse: JSON.parse(inverse) as unknown,
    undone: undone === 1
  }));
  const { createdAt, updatedAt } = project;
  const brought = bringUpProject(JSON.parse(project.document), edits, (id) => hashes.get(id) ?? null);
  const { row, entities, log: entries } = projectRows(project.id, brought.document, brought.edits);
  await sequelize.transaction(async (transaction) => {
    await q.bulkInsert("projects", [{ ...row, createdAt, updatedAt }], { transaction });
    if (entities.length > 0) await q.bulkInsert("entities", entities, { transaction });
    if (entries.length > 0)
      await q.bulkInsert(
        "edits",
        entries.map((e) => ({ ...e, createdAt: updatedAt })),
        { transaction }
      );
    await sequelize.query("DELETE FROM edits_1 WHERE projectId = :id", { replacements, transaction });
    await sequelize.query("DELETE FROM projects_1 WHERE id = :id", { replacements, transaction });
  });
}

export const entities = {
  name: "002-entities",
  async up({ context: q }: { context: QueryInterface }) {
    const { sequelize } = q;
    for (const sql of TABLES) await sequelize.query(sql);
    const recordings = await sequelize.query<{ id: string; hash: string }>(
      "SELECT id, hash FROM recordings",
      {
        type: QueryTypes.SELECT
      }
    );
    const hashes = new Map(recordings.map(({ id, hash }) => [id, hash]));
    const projects = await sequelize.query<Project1>("SELECT * FROM projects_1", { type: QueryTypes.SELECT });
    for (const project of projects)
      try {
        await carry(q, project, hashes);
      } catch (error) {
        log.error({ project: project.id, error: String(error) }, "project of version 1 cannot be read");
      }
  }
};

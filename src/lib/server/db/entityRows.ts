// The rows of a project's entities and edits. SQL of our own: many rows go in one statement, as JSON.
import { QueryTypes, type Transaction } from "sequelize";
import type { Change } from "$lib/core/session/changes";
import type { Entry } from "$lib/core/session/replica";
import { DOCUMENT_VERSION } from "$lib/core/session/schema";
import { database } from "./connection";

async function select<T extends object>(
  sql: string,
  bind: Record<string, unknown>,
  transaction?: Transaction
): Promise<T[]> {
  const { sequelize } = await database();
  return sequelize.query<T>(sql, { type: QueryTypes.SELECT, bind, transaction });
}

async function run(sql: string, bind: Record<string, unknown>, transaction: Transaction): Promise<void> {
  const { sequelize } = await database();
  await sequelize.query(sql, { type: QueryTypes.RAW, bind, transaction });
}

/** A moment as Sequelize writes and reads it. */
function databaseTime(moment: Date): string {
  return moment.toISOString().replace("T", " ").replace("Z", " +00:00");
}

export interface EntityRow {
  readonly tableName: string;
  readonly json: string;
}

/** All entities of a project, those of unknown tables as well. */
export function entityRows(projectId: string, transaction?: Transaction): Promise<EntityRow[]> {
  const sql = "SELECT tableName, json FROM entities WHERE projectId = $projectId";
  return select<EntityRow>(sql, { projectId }, transaction);
}

/** A slice of a project's entities in the order of their tables and ids, after one of them. */
export async function entitySlice(
  projectId: string,
  after: { readonly tableName: string; readonly id: string },
  most: number
): Promise<(EntityRow & { readonly id: string })[]> {
  const sql = `SELECT tableName, id, json FROM entities WHERE projectId = $projectId
    AND (tableName, id) > ($tableName, $id) ORDER BY tableName, id LIMIT $most`;
  return select(sql, { projectId, ...after, most });
}

/** Writes what changed. */
export async function writeChanges(
  projectId: string,
  changes: readonly Change[],
  transaction: Transaction
): Promise<void> {
  const put = changes
    .filter((c) => c.after !== null)
    .map((c) => ({ t: c.table, i: c.id, j: JSON.stringify(c.after) }));
  const gone = changes.filter((c) => c.after === null).map((c) => ({ t: c.table, i: c.id }));
  if (put.length > 0)
    await run(
      `INSERT INTO entities (projectId, tableName, id, json)
       SELECT $projectId, value ->> 't', value ->> 'i', value ->> 'j' FROM json_each($rows) WHERE true
       ON CONFLICT DO UPDATE SET json = excluded.json`,
      { projectId, rows: JSON.stringify(put) },
      transaction
    );
  if (gone.length > 0)
    await run(
      `DELETE FROM entities WHERE projectId = $projectId
       AND (tableName, id) IN (SELECT value ->> 't', value ->> 'i' FROM json_each($rows))`,
      { projectId, rows: JSON.stringify(gone) },
      transaction
    );
}

/** Puts all entities of a new project in, each as its JSON with an id. */
export async function insertEntities(
  projectId: string,
  entities: readonly EntityRow[],
  transaction: Transaction
): Promise<void> {
  const rows = entities.map(({ tableName, json }) => ({ t: tableName, j: json }));
  await run(
    `INSERT INTO entities (projectId, tableName, id, json)
     SELECT $projectId, value ->> 't', json_extract(value ->> 'j', '$.id'), value ->> 'j' FROM json_each($rows)`,
    { projectId, rows: JSON.stringify(rows) },
    transaction
  );
}

/** Notes accepted edits. */
export async function insertEntries(
  projectId: string,
  entries: readonly Entry[],
  transaction: Transaction
): Promise<void> {
  const now = databaseTime(new Date());
  for (const { revision, editId, kind, target, label, page, job, changes } of entries)
    await run(
      `INSERT INTO edits (projectId, revision, editId, kind, target, label, page, job, changes, state, stateAt, version, createdAt)
       VALUES ($projectId, $revision, $editId, $kind, $target, $label, $page, $job, $changes, $state, $revision, $version, $now)`,
      {
        projectId,
        revision,
        editId,
        kind,
        target,
        label,
        page,
        job,
        changes: JSON.stringify(changes),
        state: kind === "do" ? "done" : "step",
        version: DOCUMENT_VERSION,
        now
      },
      transaction
    );
}

/** Says that an edit is now done again, or undone. */
export function setEditState(
  projectId: string,
  editId: string,
  state: "done" | "undone",
  revision: number,
  transaction: Transaction
): Promise<void> {
  const sql =
    "UPDATE edits SET state = $state, stateAt = $revision WHERE projectId = $projectId AND editId = $editId";
  return run(sql, { projectId, editId, state, revision }, transaction);
}

/** What is undone can no longer be brought again. */
export function dropUndone(projectId: string, transaction: Transaction): Promise<void> {
  const sql = "UPDATE edits SET state = 'dropped' WHERE projectId = $projectId AND state = 'undone'";
  return run(sql, { projectId }, transaction);
}

/** Brings a project's row up to its entities. */
export function updateProject(
  projectId: string,
  row: { name: string; sampleRate: number; tracks: number; lengthFrames: number; revision: number },
  transaction: Transaction
): Promise<void> {
  const now = databaseTime(new Date());
  const sql = `UPDATE projects SET name = $name, sampleRate = $sampleRate, tracks = $tracks, lengthFrames = $lengthFrames,
    revision = $revision, updatedAt = $now WHERE id = $projectId`;
  return run(sql, { projectId, ...row, now }, transaction);
}

/** Forgets all but the newest edits. */
export function pruneEdits(projectId: string, upTo: number, transaction: Transaction): Promise<void> {
  const sql = "DELETE FROM edits WHERE projectId = $projectId AND revision <= $upTo";
  return run(sql, { projectId, upTo }, transaction);
}

interface EntryRow {
  readonly revision: number;
  readonly editId: string;
  readonly kind: Entry["kind"];
  readonly target: string | null;
  readonly label: string;
  readonly page: string | null;
  readonly job: string | null;
  readonly changes: string;
}

function entryOf(row: EntryRow): Entry {
  return { ...row, changes: JSON.parse(row.changes) as Change[] };
}

const COLUMNS = "revision, editId, kind, target, label, page, job, changes";

/** Accepted edits after a revision, in order. */
export async function entriesAfter(
  projectId: string,
  revision: number,
  transaction?: Transaction
): Promise<Entry[]> {
  const sql = `SELECT ${COLUMNS} FROM edits WHERE projectId = $projectId AND revision > $revision ORDER BY revision`;
  return (await select<EntryRow>(sql, { projectId, revision }, transaction)).map(entryOf);
}

/** The accepted edit of this id. */
export async function entryOfEdit(
  projectId: string,
  editId: string,
  transaction?: Transaction
): Promise<Entry | undefined> {
  const sql = `SELECT ${COLUMNS} FROM edits WHERE projectId = $projectId AND editId = $editId`;
  const [row] = await select<EntryRow>(sql, { projectId, editId }, transaction);
  return row && entryOf(row);
}

/** What an edit did when it was last done: first, or by the newest redo. */
export async function lastEffect(
  projectId: string,
  editId: string,
  transaction: Transaction
): Promise<Change[] | undefined> {
  const sql = `SELECT changes FROM edits WHERE projectId = $projectId
    AND (editId = $editId OR (target = $editId AND kind = 'redo')) ORDER BY revision DESC LIMIT 1`;
  const [row] = await select<{ changes: string }>(sql, { projectId, editId }, transaction);
  return row && (JSON.parse(row.changes) as Change[]);
}

interface HistoryRow {
  readonly editId: string;
  readonly label: string;
  readonly page: string | null;
  readonly job: string | null;
}

/** The newest edits in a state, the newest last. */
export async function editsInState(
  projectId: string,
  state: "done" | "undone",
  most: number,
  transaction?: Transaction
): Promise<HistoryRow[]> {
  const sql = `SELECT editId, label, page, job FROM edits WHERE projectId = $projectId AND state = $state
    ORDER BY stateAt DESC LIMIT $most`;
  return (await select<HistoryRow>(sql, { projectId, state, most }, transaction)).reverse();
}

interface FullEdit extends EntryRow {
  readonly state: string;
  readonly stateAt: number;
  readonly version: number;
  readonly createdAt: string;
}

/** A project's history as it is stored, oldest first. */
export function allEdits(projectId: string): Promise<FullEdit[]> {
  const sql = `SELECT ${COLUMNS}, state, stateAt, version, createdAt FROM edits WHERE projectId = $projectId ORDER BY revision`;
  return select<FullEdit>(sql, { projectId });
}

/** Stores a history that came from elsewhere. */
export async function insertEdits(
  projectId: string,
  edits: readonly { readonly revision: number }[],
  transaction: Transaction
): Promise<void> {
  const fields = `${COLUMNS}, state, stateAt, version, createdAt`.split(", ");
  const values = fields.map((field) => `value ->> '${field}'`).join(", ");
  await run(
    `INSERT INTO edits (projectId, ${fields.join(", ")}) SELECT $projectId, ${values} FROM json_each($rows)`,
    { projectId, rows: JSON.stringify(edits) },
    transaction
  );
}

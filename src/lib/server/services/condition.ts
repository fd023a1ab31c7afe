// Whether the files of recordings are what their names say, and telling it to the pages that use them.
import { config } from "../config";
import { database, write } from "../db/connection";
import { publish } from "../events";
import { runTask } from "../jobs/pool";
import { log } from "../log";
import type { FileState } from "../media/store";
import { QueryTypes } from "sequelize";

/** Projects that have a recording. */
async function projectsWith(recordingId: string): Promise<string[]> {
  const { sequelize } = await database();
  const rows = await sequelize.query<{ projectId: string }>(
    "SELECT projectId FROM entities WHERE tableName = 'recordings' AND id = $recordingId",
    { type: QueryTypes.SELECT, bind: { recordingId } }
  );
  return rows.map((row) => row.projectId);
}

/** What a recording is called in one of the projects that have it. */
export async function knownName(recordingId: string): Promise<string> {
  const { sequelize } = await database();
  const [row] = await sequelize.query<{ name: string }>(
    "SELECT json_extract(json, '$.name') AS name FROM entities WHERE tableName = 'recordings' AND id = $recordingId LIMIT 1",
    { type: QueryTypes.SELECT, bind: { recordingId } }
  );
  return row?.name ?? "a recording";
}

/** Notes what a check found. Returns whether that is news; then the pages of the projects that have it are told. */
export async function markRecording(recordingId: string, state: FileState): Promise<boolean> {
  const news = await write(async (models, transaction) => {
    const row = await models.Recording.findByPk(recordingId, { transaction });
    if (!row) return false;
    const changed = row.state !== state;
    await row.update({ state, checkedAt: new Date() }, { transaction });
    return changed;
  });
  if (news)
    for (const projectId of await projectsWith(recordingId))
      publish(projectId, { type: "recording", id: recordingId, state });
  return news;
}

/** Compares a recording's file with its hash, on a worker thread, and notes what was found. */
export async function checkRecording(
  recordingId: string,
  hash: string,
  signal = new AbortController().signal
): Promise<FileState | undefined> {
  const task = { kind: "verify" as const, dataFolder: config.dataFolder, scratch: "", hash };
  const outcome = await runTask(task, signal, () => undefined);
  if (!("result" in outcome)) {
    log.error({ recordingId, outcome }, "recording could not be checked");
    return undefined;
  }
  const { state } = outcome.result as { state: FileState };
  await markRecording(recordingId, state);
  return state;
}

/** Checks those recordings that have not been checked for longest. Returns how many. */
export async function checkSome(most: number, notSince: Date, signal: AbortSignal): Promise<number> {
  const { models } = await database();
  const rows = await models.Recording.findAll({ order: [["checkedAt", "ASC"]], limit: most });
  const due = rows.filter((row) => !row.checkedAt || row.checkedAt < notSince);
  for (const row of due) {
    if (signal.aborted) break;
    await checkRecording(row.id, row.hash, signal);
  }
  return due.length;
}

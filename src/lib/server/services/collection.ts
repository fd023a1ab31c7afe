// Which recordings are still needed, and freeing the room of those that are not.
import { QueryTypes } from "sequelize";
import { WavFile } from "../media/wavFile";
import { config } from "../config";
import { database, write } from "../db/connection";
import { log } from "../log";
import { recordingIdOf } from "../media/paths";
import { MediaStore } from "../media/store";

/** A recording that nothing needs any more is kept this long. */
export const UNUSED_DAYS = 30;
const DAY_MS = 86400000;

/**
 * Ids of recordings that something needs: a project or one in the bin, its history, a preset, a job that has not ended, a project
 * that cannot be read.
 */
async function needed(): Promise<Set<string>> {
  const { models, sequelize } = await database();
  const left = new Set((await models.Recording.findAll({ attributes: ["id"] })).map((row) => row.id));
  const found = new Set<string>();
  const look = (rows: readonly { text: string }[]) => {
    for (const { text } of rows)
      for (const [, id] of text.matchAll(/"([0-9a-f]{24})(?:-[^"]{1,40})?"/g))
        if (id !== undefined && left.delete(id)) found.add(id);
  };
  const select = (sql: string, bind: Record<string, unknown> = {}) =>
    sequelize.query<{ text: string; revision: number }>(sql, { type: QueryTypes.SELECT, bind });
  look(
    await select(
      `SELECT json AS text FROM entities WHERE tableName IN ('recordings', 'clips', 'chains')
       UNION ALL SELECT steps FROM presets
       UNION ALL SELECT payload FROM jobs WHERE state IN ('queued', 'running')
       UNION ALL SELECT document FROM projects_1
       UNION ALL SELECT inverse || patches FROM edits_1`
    )
  );
  // Histories may be long: a few edits at a time.
  for (const { id } of await models.Project.findAll({ attributes: ["id"] }))
    for (let after = 0; left.size > 0;) {
      const rows = await select(
        "SELECT changes AS text, revision FROM edits WHERE projectId = $id AND revision > $after ORDER BY revision LIMIT 100",
        { id, after }
      );
      look(rows);
      const last = rows.at(-1);
      if (!last) break;
      after = last.revision;
    }
  return found;
}

export interface Collected {
  readonly recordings: number;
  readonly bytes: number;
}

/**
 * Removes an unused recording with its file, unless it has come into use since that was found. While a job has not ended nothing is
 * removed: it may be about to register the very file. Returns the bytes that are free now; undefined when it stays.
 */
function removeUnused(id: string, store: MediaStore): Promise<number | undefined> {
  return write(async (models, transaction) => {
    const open = await models.Job.count({ where: { state: ["queued", "running"] }, transaction });
    const row = await models.Recording.findByPk(id, { transaction });
    if (open > 0 || !row?.unusedSince) return undefined;
    await row.destroy({ transaction });
    // Within the transaction: no job can begin before it ends.
    return store.remove(row.hash);
  });
}

/**
 * Notes since when recordings are unused, and removes those that have been for 30 days.
 * @param days 0: all that are unused now
 */
export async function collectUnused(days = UNUSED_DAYS, now = Date.now()): Promise<Collected> {
  const used = await needed();
  const { models } = await database();
  const store = new MediaStore(config.dataFolder);
  let recordings = 0;
  let bytes = 0;
  for (const row of await models.Recording.findAll()) {
    if (used.has(row.id)) {
      if (row.unusedSince)
        await write((_, transaction) => row.update({ unusedSince: null }, { transaction }));
      continue;
    }
    const since = row.unusedSince ?? new Date(now);
    if (!row.unusedSince)
      await write((_, transaction) => row.update({ unusedSince: since }, { transaction }));
    if (now - since.getTime() < days * DAY_MS) continue;
    const freed = await removeUnused(row.id, store);
    if (freed === undefined) continue;
    bytes += freed;
    recordings++;
  }
  if (recordings > 0) log.info({ recordings, bytes }, "unused recordings were removed");
  return { recordings, bytes };
}

/** Ids of recordings that nothing needs now. */
export async function unusedRecordings(): Promise<Set<string>> {
  const used = await needed();
  const { models } = await database();
  const rows = await models.Recording.findAll({ attributes: ["id"] });
  return new Set(rows.map((row) => row.id).filter((id) => !used.has(id)));
}

/**
 * Notes files of the store that no row tells of: a process ended just before, or the database is an older backup. They are then
 * kept and collected as others are. A file whose content is not what its name says is logged and left alone.
 */
export async function registerFound(): Promise<void> {
  const store = new MediaStore(config.dataFolder);
  const { models } = await database();
  const known = new Set((await models.Recording.findAll({ attributes: ["hash"] })).map((row) => row.hash));
  for (const hash of store.originals()) {
    if (known.has(hash)) continue;
    try {
      const wav = new WavFile(store.original(hash));
      const { sampleRate, channels, frames } = wav.layout;
      wav.close();
      await write((all, transaction) =>
        all.Recording.create(
          { id: recordingIdOf(hash), hash, sampleRate, channels, frames, kind: "import" },
          { transaction }
        )
      );
    } catch (error) {
      log.error({ hash, error: String(error) }, "file in the media folder cannot be read");
    }
  }
}

import { existsSync } from "node:fs";
import type { Document } from "$lib/core/session/schema";
import { config } from "../config";
import { database, write } from "../db/connection";
import type { RecordingRow } from "../db/models";
import { UserFault } from "../faults";
import { conformedPath, originalPath, recordingIdOf } from "../media/paths";
import type { RecordingFiles } from "../media/fileSource";

export interface NewRecording {
  readonly hash: string;
  readonly sampleRate: number;
  readonly channels: number;
  /** Frames of the file itself. */
  readonly frames: number;
  readonly kind: "import" | "render";
}

/** Notes a recording of the media store; does nothing when it is known. Returns its id. */
export async function registerRecording(recording: NewRecording): Promise<string> {
  const id = recordingIdOf(recording.hash);
  await write((models, transaction) =>
    models.Recording.findOrCreate({ where: { id }, defaults: { id, ...recording }, transaction })
  );
  return id;
}

/** @throws UserFault 404 */
export async function findRecordingRow(id: string): Promise<RecordingRow> {
  const { models } = await database();
  const row = await models.Recording.findByPk(id);
  if (!row) throw new UserFault(404, "There is no such recording.");
  return row;
}

/** The file that holds a recording at a rate. */
export function fileAtRate(row: Pick<RecordingRow, "hash" | "sampleRate">, sampleRate: number): string {
  return row.sampleRate === sampleRate
    ? originalPath(config.dataFolder, row.hash)
    : conformedPath(config.dataFolder, row.hash, sampleRate);
}

/** Files of all recordings that a document uses. @throws UserFault when one is missing from the store */
export async function filesOf(document: Document): Promise<RecordingFiles> {
  const { models } = await database();
  const rows = await models.Recording.findAll({ where: { id: document.recordings.map((r) => r.id) } });
  const files: Record<string, string> = {};
  for (const { id, name } of document.recordings) {
    const row = rows.find((r) => r.id === id);
    const file = row && fileAtRate(row, document.sampleRate);
    if (!file || !existsSync(file))
      throw new UserFault(409, `The audio of "${name}" is missing from the data folder.`);
    files[id] = file;
  }
  return files;
}
